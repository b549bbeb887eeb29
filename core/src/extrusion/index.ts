export * from './bead'
export * from './cooling'
export * from './lift'

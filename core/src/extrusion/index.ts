export * from './bead'
export * from './cooling'

export * from './builder'
export * from './part'
export * from './planError'

export * from './program'
export * from './reader'
export * from './writer'

export * from './printSettings'
export * from './program'
export * from './reader/reader'
export * from './writer'

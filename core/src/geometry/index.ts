export * from './grid'
export * from './shapes'

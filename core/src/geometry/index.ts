export * from './grid'
export * from './hull'
export * from './shapes'

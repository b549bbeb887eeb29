export * from './format'
export * from './reason'
export * from './fillMissing'

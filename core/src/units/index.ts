export * from './format'

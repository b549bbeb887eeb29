export * from './commands'
export * from './cornerRule'
export * from './machine'
export * from './upgrade'

export * from './cards'
export * from './filament'
export * from './machine'
export * from './label'

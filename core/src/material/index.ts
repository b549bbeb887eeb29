export * from './cards'
export * from './filament'
export * from './label'
export * from './upgrade'

export * from './trapezoid'
export * from './timeline'

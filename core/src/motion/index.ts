export * from './trapezoid'
export * from './plan'

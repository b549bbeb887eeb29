import type { Frame } from '../src/picture/render'

/** mm that a picture takes in, from its left lower corner. */
export const windowOf = (u0: number, v0: number, wide: number, shape: number): Frame => ({
  u0,
  u1: u0 + wide,
  v0,
  v1: v0 + wide * shape,
})

/** What a stretch of extrusion is for; told by geometry, never by comments. Small integers: one a move. */
export const Feature = {
  None: 0,
  Outer: 1,
  Inner: 2,
  Solid: 3,
  Sparse: 4,
  Bridge: 5,
  Skirt: 6,
  Brim: 7,
  Raft: 8,
  Support: 9,
  Thin: 10,
} as const
export type Feature = (typeof Feature)[keyof typeof Feature]

/** Names by number, in trade words. */
export const FEATURE_NAMES = [
  'none',
  'outer wall',
  'inner wall',
  'solid fill',
  'sparse fill',
  'bridge',
  'skirt',
  'brim',
  'raft',
  'support',
  'thin wall',
] as const
export const FEATURE_COUNT = FEATURE_NAMES.length

/** What a stretch of extrusion is for; told by geometry, never by comments. Small integers: one a move. */
export const Feature = {
  None: 0,
  Outer: 1,
  Inner: 2,
  Solid: 3,
  Infill: 4,
  Bridge: 5,
  Skirt: 6,
  Brim: 7,
  Raft: 8,
  Support: 9,
  Thin: 10,
} as const
export type Feature = (typeof Feature)[keyof typeof Feature]

/** Names by number. */
export const FEATURE_NAMES = [
  'none',
  'outer wall',
  'inner walls',
  'solid layers',
  'infill',
  'bridge',
  'skirt',
  'brim',
  'raft',
  'support',
  'thin wall',
] as const
export const FEATURE_COUNT = FEATURE_NAMES.length

/** What is graded at each place of a piece, by eye or by hand: 4 is flawless, 0 is useless. */
export const CRITERIA = {
  strings: {
    name: 'Strings',
    ask: 'What hangs between the posts?',
    grades: ['ropes or a web', 'many hairs', 'some hairs', 'one or two hairs', 'nothing'],
  },
  bonding: {
    name: 'Bond of the layers',
    ask: 'Bend the thin wall until it gives. How does it break?',
    grades: [
      'falls apart between layers',
      'snaps clean between layers',
      'snaps, partly across',
      'tears across layers',
      'bends, does not split',
    ],
  },
  overhang: {
    name: 'Overhang',
    ask: 'How does the underside of the leaning fin look?',
    grades: ['hangs in loops', 'lines sag', 'rough', 'slightly rough', 'as clean as a wall'],
  },
  bridge: {
    name: 'Bridge',
    ask: 'How does the underside of the bridge look?',
    grades: ['lines have dropped', 'sags much', 'sags a little', 'a few loose lines', 'straight and closed'],
  },
  detail: {
    name: 'Small column',
    ask: 'How does the slender column look?',
    grades: ['a molten blob', 'bent and lumpy', 'rounded edges', 'slightly soft', 'sharp edges'],
  },
  surface: {
    name: 'Face',
    ask: 'How even is the face against the light?',
    grades: ['torn or foamy', 'rough', 'dull or patchy', 'nearly even', 'even, with its full gloss'],
  },
  corners: {
    name: 'Corners',
    ask: 'Feel the corners and what follows them.',
    grades: ['bulge and gap', 'clear bulge or gap', 'can be felt', 'can just be seen', 'sharp and even'],
  },
  evenness: {
    name: 'Even width',
    ask: 'Where the speed changes: how even is the line?',
    grades: ['breaks or lumps', 'clearly thick and thin', 'thick or thin', 'hardly to be seen', 'one width'],
  },
  ripples: {
    name: 'Ripples',
    ask: 'What follows the sharp corners on the long face?',
    grades: ['deep ripples far along', 'clear ripples', 'some ripples', 'a trace', 'none'],
  },
  sheet: {
    name: 'First layer',
    ask: 'How do the lines lie beside each other?',
    grades: [
      'loose or ploughed',
      'gaps or ridges',
      'some gaps or ridges',
      'nearly closed',
      'closed and flat',
    ],
  },
  closed: {
    name: 'Solid layers',
    ask: 'How does the top of the strip look?',
    grades: [
      'holes or a rough heap',
      'gaps or ridges',
      'some gaps or ridges',
      'nearly closed',
      'closed and flat',
    ],
  },
  seam: {
    name: 'Seam',
    ask: 'How do the loop starts look, stacked and scattered?',
    grades: ['lumps or notches', 'clear line', 'can be felt', 'can just be seen', 'hard to find'],
  },
  free: {
    name: 'Play',
    ask: 'Try to move the pin, tongue or axle with your fingers.',
    grades: ['fused', 'breaks free with a tool', 'breaks free by hand', 'moves stiffly', 'moves freely'],
  },
} as const
export type CriterionId = keyof typeof CRITERIA
export const CRITERION_IDS = Object.keys(CRITERIA) as CriterionId[]
export const TOP_GRADE = 4
/** How far grades of one thing scatter from look to look, in grades: a little more than a usual hand. From memory. */
export const HAND_SCATTER = 0.65

/** True when the text names a criterion. */
export function isCriterionId(id: string): id is CriterionId {
  return Object.hasOwn(CRITERIA, id)
}

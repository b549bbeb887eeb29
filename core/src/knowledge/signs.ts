/** Kinds of faults. */
export const FAMILIES_OF_FAULT = [
  { id: 'strings', label: 'Strings and debris' },
  { id: 'first-layer', label: 'First layer' },
  { id: 'seam', label: 'Seam' },
  { id: 'banding', label: 'Banding and finish' },
  { id: 'size', label: 'Size' },
  { id: 'flow', label: 'Flow and strength' },
] as const
export type FaultFamily = (typeof FAMILIES_OF_FAULT)[number]['id']

export interface Sign {
  family: FaultFamily
  name: string
  /** What it looks, sounds or measures like. */
  text: string
  /** Where to look for it. */
  where: string
  /** A sign it is easily taken for, and how to tell. */
  unlike?: { id: SignId; tell: string }
}

const strings = 'strings' as const
const first = 'first-layer' as const
const seam = 'seam' as const
const banding = 'banding' as const
const size = 'size' as const
const flow = 'flow' as const

/** What a person can see, hear or measure. Ids are stable: added to, never renamed. */
export const SIGNS = {
  'strings-thin': {
    family: strings,
    name: 'Fine strings',
    text: 'Hair as thin as cobweb hangs between parts of the print.',
    where: 'Between towers, inside holes, across gaps.',
    unlike: { id: 'strings-thick', tell: 'Hair breaks when you blow warm air on it; ropes do not.' },
  },
  'strings-thick': {
    family: strings,
    name: 'Thick strings',
    text: 'Ropes as thick as a line of print hang between parts.',
    where: 'Where the head crosses a gap, often at the same height.',
    unlike: {
      id: 'sagging-overhangs',
      tell: 'A rope follows the head’s travel; a sag follows the drawn edge.',
    },
  },
  'blobs-on-wall': {
    family: strings,
    name: 'Blobs on walls',
    text: 'Raised dots are scattered over a wall.',
    where: 'Anywhere on outer walls; feel with a fingernail.',
    unlike: { id: 'seam-bumps-scattered', tell: 'Seam bumps come once per layer; blobs can be anywhere.' },
  },
  'popping-or-steam': {
    family: strings,
    name: 'Popping or steam',
    text: 'The nozzle crackles or lets out wisps of steam.',
    where: 'Listen close while it prints slowly or is fed by hand.',
  },
  'rough-foamy-surface': {
    family: strings,
    name: 'Foamy surface',
    text: 'Lines are pitted with tiny bubbles and look matt.',
    where: 'Flat walls against the light.',
    unlike: { id: 'dull-finish', tell: 'Foam can be felt; dullness is only seen.' },
  },
  'nozzle-drips-idle': {
    family: strings,
    name: 'Drips while waiting',
    text: 'Plastic runs out of the nozzle though nothing is fed.',
    where: 'At the nozzle while the bed heats.',
  },

  'first-layer-not-sticking': {
    family: first,
    name: 'Lines come loose',
    text: 'First lines do not hold, curl or follow the nozzle.',
    where: 'On the bed in the first minute.',
  },
  'corners-lift': {
    family: first,
    name: 'Corners lift',
    text: 'Corners curl up from the bed while the part grows.',
    where: 'At the far corners of the base.',
    unlike: { id: 'first-layer-not-sticking', tell: 'Lifting comes late, when many layers pull.' },
  },
  'part-breaks-loose': {
    family: first,
    name: 'Part breaks loose',
    text: 'The whole part is knocked off in mid-print.',
    where: 'Look for a clean patch on the bed and a nest of plastic.',
  },
  'small-pieces-detach': {
    family: first,
    name: 'Small pieces shift',
    text: 'Small islands move or come off in the first layers.',
    where: 'Letters, pins, legs, small feet.',
  },
  'first-layer-gaps': {
    family: first,
    name: 'Gaps between lines',
    text: 'Neighbouring lines of the first layer do not touch.',
    where: 'Underside of the part, against the light.',
    unlike: { id: 'gaps-in-solid-fill', tell: 'Look whether layers above show the gaps too.' },
  },
  'first-layer-ridges': {
    family: first,
    name: 'Ridges or scraping',
    text: 'First-layer lines are ploughed up, scraped or see-through thin.',
    where: 'Top of the first layer: stroke it with a finger.',
  },
  'first-layer-uneven': {
    family: first,
    name: 'Uneven first layer',
    text: 'The first layer is good here and bad there.',
    where: 'Compare the four corners and the middle.',
  },
  'first-lines-missing': {
    family: first,
    name: 'First lines missing',
    text: 'The very first stretch of the path is not there.',
    where: 'At the start of the first loop.',
  },
  'base-flare': {
    family: first,
    name: 'Elephant’s foot',
    text: 'The bottom edge bulges outwards.',
    where: 'The lowest half millimetre of outer walls.',
  },
  'details-lost-first-layer': {
    family: first,
    name: 'Details lost at the base',
    text: 'Thin features are missing or smeared in the first layer.',
    where: 'Letters, slots and points on the underside.',
  },
  'base-bows': {
    family: first,
    name: 'Base sags inwards',
    text: 'Walls pinch inwards just above the base.',
    where: 'The lowest few millimetres, along a straight edge.',
  },
  'hard-to-remove': {
    family: first,
    name: 'Hard to remove',
    text: 'Part or raft will not come off the bed.',
    where: 'When the bed is cold.',
  },

  'seam-line': {
    family: seam,
    name: 'Seam line',
    text: 'One upright ridge runs up the wall.',
    where: 'Turn the part slowly in side light.',
  },
  'seam-bumps-scattered': {
    family: seam,
    name: 'Scattered seam bumps',
    text: 'One bump a layer, at changing places.',
    where: 'Round walls.',
  },
  'seam-blob': {
    family: seam,
    name: 'Blob where loops close',
    text: 'A bulge stands where each loop ends.',
    where: 'At the seam, with a fingernail.',
  },
  'seam-gap': {
    family: seam,
    name: 'Notch at the seam',
    text: 'A notch or hole where loops start or close.',
    where: 'At the seam, against the light.',
  },
  'crack-along-seam': {
    family: seam,
    name: 'Cracks along the seam',
    text: 'The part splits along the seam when flexed.',
    where: 'Soft and thin-walled parts.',
  },

  'bands-regular': {
    family: banding,
    name: 'Even bands',
    text: 'Bands repeat at an even distance up the wall.',
    where: 'Flat walls in side light; measure ten of them.',
  },
  'bands-at-feature-height': {
    family: banding,
    name: 'Bands where the shape changes',
    text: 'A band starts or stops at the height of a hole, ledge or step.',
    where: 'Level with the feature, all round.',
  },
  'bands-gloss': {
    family: banding,
    name: 'Shiny and dull bands',
    text: 'Bands differ in gloss, not in relief.',
    where: 'Tilt the part under a lamp.',
  },
  'bands-irregular': {
    family: banding,
    name: 'Uneven layers',
    text: 'Layers are thick and thin without a pattern.',
    where: 'Any flat wall.',
  },
  'dull-finish': {
    family: banding,
    name: 'Dull finish',
    text: 'The gloss this filament should have is missing.',
    where: 'Outer walls, compared with the roll.',
  },
  ghosting: {
    family: banding,
    name: 'Ghosting',
    text: 'Ripples follow corners and edges.',
    where: 'The few millimetres after each corner.',
  },
  'vertical-fine-ribs': {
    family: banding,
    name: 'Fine upright ribs',
    text: 'Fine even ribs stand on flat walls.',
    where: 'Long straight walls in side light.',
  },

  'outside-too-big': {
    family: size,
    name: 'Outside too big',
    text: 'Outer sizes measure over.',
    where: 'Calipers on X and Y, away from the base.',
  },
  'outside-too-small': {
    family: size,
    name: 'Outside too small',
    text: 'Outer sizes measure under.',
    where: 'Calipers on X and Y.',
  },
  'holes-too-small': {
    family: size,
    name: 'Holes too small',
    text: 'Holes measure under or pins will not go in.',
    where: 'Inner jaws of the calipers.',
  },
  'error-constant': {
    family: size,
    name: 'Same error everywhere',
    text: 'Short and long sizes are off by the same amount.',
    where: 'Compare a 10 mm and a 100 mm size.',
  },
  'error-grows-with-length': {
    family: size,
    name: 'Error grows with length',
    text: 'Long sizes are off by more than short ones.',
    where: 'Compare a 10 mm and a 100 mm size.',
  },
  'one-axis-only': {
    family: size,
    name: 'One axis only',
    text: 'Only X, only Y or only Z is off.',
    where: 'Measure the same size along each axis.',
  },
  'height-wrong': {
    family: size,
    name: 'Height wrong',
    text: 'The part is too tall or too short.',
    where: 'Calipers along Z.',
  },
  'not-square': {
    family: size,
    name: 'Not square',
    text: 'Corners are not right angles.',
    where: 'Measure both diagonals.',
  },
  'round-not-round': {
    family: size,
    name: 'Circles not round',
    text: 'Circles measure differently across X, Y and the diagonals.',
    where: 'Calipers in four directions.',
  },
  'moving-parts-fused': {
    family: size,
    name: 'Moving parts fused',
    text: 'Hinges or links printed in place will not move.',
    where: 'Try each joint.',
  },
  'joint-too-loose': {
    family: size,
    name: 'Joints too loose',
    text: 'Joints rattle or snaps do not hold.',
    where: 'Try each joint.',
  },

  'gaps-between-walls': {
    family: flow,
    name: 'Gaps between walls',
    text: 'Wall lines stand apart or can be split with a nail.',
    where: 'Top view of a thin wall.',
  },
  'gaps-in-solid-fill': {
    family: flow,
    name: 'Gaps in solid layers',
    text: 'Only tops, bottoms or solid layers show gaps.',
    where: 'Top faces against the light.',
  },
  'top-rough-overfull': {
    family: flow,
    name: 'Rough, overfull top',
    text: 'Top faces are ridged as if too much was laid.',
    where: 'Stroke the top.',
  },
  'weak-layers': {
    family: flow,
    name: 'Weak layers',
    text: 'The part splits between layers when bent.',
    where: 'Snap a thin wall.',
  },
  'layer-splits': {
    family: flow,
    name: 'Splits by itself',
    text: 'Cracks open between layers while it cools.',
    where: 'Mid-height of tall parts.',
  },
  'missing-layers': {
    family: flow,
    name: 'Missing layers',
    text: 'A layer or part of it is not there.',
    where: 'All round at one height.',
  },
  'thinner-at-speed': {
    family: flow,
    name: 'Thin where it is fast',
    text: 'Fast stretches look starved, slow ones do not.',
    where: 'Long straights against corners.',
  },
  'extruder-clicks': {
    family: flow,
    name: 'Drive clicks',
    text: 'The drive clicks or jumps back.',
    where: 'Listen at the drive.',
  },
  'filament-ground': {
    family: flow,
    name: 'Ground filament',
    text: 'Filament shows deep teeth marks or dust lies at the gear.',
    where: 'Open the drive.',
  },
  'flow-stops-midprint': {
    family: flow,
    name: 'Flow stops',
    text: 'The head goes on but nothing comes out.',
    where: 'Above the last good layer.',
  },
  'holes-in-soft-wall': {
    family: flow,
    name: 'Tears in a soft wall',
    text: 'Small tears or holes in a soft wall.',
    where: 'Thin walls of flexible parts.',
  },
  'sagging-overhangs': {
    family: flow,
    name: 'Sagging overhangs',
    text: 'Overhanging edges droop or curl.',
    where: 'Underside of slopes and bridges.',
  },
  'tips-melt': {
    family: flow,
    name: 'Small tops melt',
    text: 'Small tops and points turn to blobs.',
    where: 'Spires, pins, the last few layers.',
  },
  'bridge-sags': {
    family: flow,
    name: 'Bridges sag',
    text: 'Lines laid across a gap hang down or stand apart.',
    where: 'Underside of roofs over gaps and windows.',
    unlike: { id: 'sagging-overhangs', tell: 'A bridge is held at both ends; an overhang at one.' },
  },
  'top-pillows': {
    family: flow,
    name: 'Pillows on the top',
    text: 'The closed top shows bumps, dents or small holes over the infill.',
    where: 'Large flat tops over infill.',
    unlike: {
      id: 'gaps-in-solid-fill',
      tell: 'Pillows follow the infill below; gaps follow the lines of the top.',
    },
  },
  'support-scars': {
    family: flow,
    name: 'Scars of supports',
    text: 'Where supports touched, the surface is rough or bits stay on.',
    where: 'Underside of supported faces.',
    unlike: { id: 'sagging-overhangs', tell: 'Scars lie where supports touched; sags lie between them.' },
  },
  'layers-shifted': {
    family: banding,
    name: 'Layers stand aside',
    text: 'Everything above one height is shifted sideways.',
    where: 'Sight along a wall: a step at one height.',
    unlike: { id: 'missing-layers', tell: 'A shift keeps its layers; a missing one leaves a gap.' },
  },
  'edges-curl-up': {
    family: flow,
    name: 'Edges curl up',
    text: 'Overhanging edges rise, and the nozzle knocks against them.',
    where: 'At slopes, while it prints: listen for the knock.',
    unlike: { id: 'sagging-overhangs', tell: 'A curled edge stands above its layer; a sag hangs below.' },
  },
  'filament-snaps': {
    family: flow,
    name: 'Filament snaps',
    text: 'The filament breaks in the path before the drive.',
    where: 'Between roll and drive, often over night.',
  },
  'works-then-stops': {
    family: flow,
    name: 'Feeds well, then fails',
    text: 'It feeds well when cold, fails after half an hour, and works again after a rest.',
    where: 'Note the time at which it fails.',
    unlike: { id: 'flow-stops-midprint', tell: 'This comes by the clock and goes with a rest.' },
  },
  'waves-regular-height': {
    family: banding,
    name: 'Waves at even heights',
    text: 'The wall bulges and thins in even waves, every few millimetres.',
    where: 'Sight along a tall wall.',
    unlike: { id: 'bands-regular', tell: 'Waves swell over several layers; bands are single lines.' },
  },
  'corners-bulge': {
    family: seam,
    name: 'Corners bulge',
    text: 'Corners and line ends are fatter than the wall between them.',
    where: 'Run a fingernail round a sharp corner.',
    unlike: { id: 'seam-blob', tell: 'Bulging corners are all alike; a seam blob sits where loops start.' },
  },
  'corners-hollow': {
    family: seam,
    name: 'Hollow corners',
    text: 'The wall is dented or gapped just after each corner.',
    where: 'The first few millimetres after sharp corners.',
    unlike: { id: 'seam-gap', tell: 'Hollow corners come at every corner; a notch only at the seam.' },
  },
  'ripple-fine-even': {
    family: banding,
    name: 'Fine even ripple',
    text: 'A fine ripple covers whole faces and does not fade after corners.',
    where: 'Long flat faces printed at one speed, in side light.',
    unlike: { id: 'ghosting', tell: 'Ghosting fades a few millimetres after a corner; this ripple goes on.' },
  },
  'part-leans': {
    family: size,
    name: 'Part leans',
    text: 'The part stands at an angle although no layer is shifted.',
    where: 'Hold a square against a tall wall.',
    unlike: { id: 'layers-shifted', tell: 'A shift is one step; a lean grows evenly with height.' },
  },
  'plastic-on-block': {
    family: flow,
    name: 'Plastic creeps out above the nozzle',
    text: 'Plastic seeps out above the nozzle, and dark crumbs fall on the part.',
    where: 'At the heater block, under its sock.',
    unlike: { id: 'nozzle-drips-idle', tell: 'A drip comes out of the bore; a leak comes from the thread.' },
  },
  'splits-across-load': {
    family: flow,
    name: 'Snaps where it is loaded',
    text: 'A bracket or clip breaks along its layers in use.',
    where: 'At the break: is it flat, between two layers?',
    unlike: {
      id: 'layer-splits',
      tell: 'This breaks under load; a split opens by itself as the part cools.',
    },
  },
  'slow-layers-soft': {
    family: flow,
    name: 'Small layers stay soft',
    text: 'Small layers stay soft although the fan should be cooling them.',
    where: 'Tops of small parts while they print.',
  },
  'stuck-fast': {
    family: first,
    name: 'Stuck fast to the bed',
    text: 'The part cannot be taken off without damage to it or to the bed.',
    where: 'After the bed has cooled completely.',
    unlike: { id: 'hard-to-remove', tell: 'Hard to remove comes off with patience; this one does not.' },
  },
} satisfies Record<string, Omit<Sign, 'unlike'> & { unlike?: { id: string; tell: string } }>

export type SignId = keyof typeof SIGNS
export const SIGN_IDS = Object.keys(SIGNS) as SignId[]

/** The sign of an id, widened. */
export function signOf(id: SignId): Sign {
  return SIGNS[id] as Sign
}

/** True when the text names a sign. */
export function isSignId(id: string): id is SignId {
  return Object.hasOwn(SIGNS, id)
}

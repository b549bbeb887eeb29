import type { SignId } from '@verimend/core/knowledge'

/**
 * Our own line drawings, 96 × 64. `part` is the print, `aid` what stands around it, `flaw` what to look for,
 * `spot` a filled flaw.
 */
export interface Drawing {
  part?: string
  aid?: string
  flaw?: string
  spot?: string
}

const bed = 'M4 58H92'
const block = 'M24 58V16H72V58'
const lines = 'M24 22H72M24 28H72M24 34H72M24 40H72M24 46H72M24 52H72'
const wall = 'M30 6V58M66 6V58'
const nozzle = 'M38 4H58V16L51 24H45L38 16Z'
const top = 'M20 12H76V52H20Z'
const ring = 'M48 8A24 24 0 1 1 47.9 8M48 20A12 12 0 1 1 47.9 20'

export const DRAWINGS: Record<SignId, Drawing> = {
  'strings-thin': {
    aid: bed,
    part: 'M12 58V14H30V58M66 58V14H84V58',
    flaw: 'M30 20C42 28 52 18 66 23M30 29C44 37 54 27 66 33M30 40C40 46 56 38 66 43M34 31C40 40 44 30 48 36',
  },
  'strings-thick': {
    aid: bed,
    part: 'M12 58V14H30V58M66 58V14H84V58',
    flaw: 'M30 24C44 33 54 31 66 25M30 28C44 38 54 36 66 29M30 44C44 52 54 50 66 45M30 47C44 56 54 54 66 48',
  },
  'blobs-on-wall': {
    aid: bed,
    part: block + lines,
    spot: 'M34 30a3 3 0 1 0 .1 0M58 24a2.6 2.6 0 1 0 .1 0M50 44a3.4 3.4 0 1 0 .1 0M66 48a2.2 2.2 0 1 0 .1 0M29 50a2 2 0 1 0 .1 0',
  },
  'popping-or-steam': {
    part: nozzle,
    aid: 'M48 24V50M20 58H76',
    flaw: 'M38 28C34 34 40 38 35 44M58 28C62 34 56 38 61 44M30 24l-6 -4M66 24l6 -4M28 34h-7M68 34h7',
  },
  'rough-foamy-surface': {
    aid: bed,
    part: block,
    flaw: 'M24 22q6 -3 12 0t12 0t12 0t12 0M24 32q5 3 10 0t10 0t14 0t14 0M24 42q6 -3 12 0t12 0t12 0t12 0M24 52q5 3 12 0t12 0t12 0t12 0',
    spot: 'M34 27a1.4 1.4 0 1 0 .1 0M52 36a1.6 1.6 0 1 0 .1 0M62 26a1.3 1.3 0 1 0 .1 0M42 47a1.6 1.6 0 1 0 .1 0M66 47a1.2 1.2 0 1 0 .1 0',
  },
  'nozzle-drips-idle': {
    part: nozzle,
    aid: 'M20 58H76',
    flaw: 'M48 24C48 34 46 38 47 44C44 49 52 49 49 44',
    spot: 'M48 54a3 2.4 0 1 0 .1 0',
  },

  'first-layer-not-sticking': {
    aid: bed,
    part: 'M10 56H50',
    flaw: 'M50 56C62 56 66 52 64 44C62 36 54 36 56 28',
    spot: 'M54 24l6 0l-3 5Z',
  },
  'corners-lift': {
    aid: bed,
    part: 'M14 50C24 56 34 57 48 57C62 57 72 56 82 50V22H14Z',
    flaw: 'M14 52V58M82 52V58M10 46l-4 -6M86 46l4 -6',
  },
  'part-breaks-loose': {
    aid: bed + 'M22 60H44',
    part: 'M44 54L58 14L78 21L64 61Z',
    flaw: 'M34 40C26 36 22 44 28 48M24 50l-6 4',
  },
  'small-pieces-detach': {
    aid: bed,
    part: 'M12 58V50H22V58M32 58V50H42V58M74 58V50H84V58',
    flaw: 'M50 54L57 46L64 52L57 60ZM66 44q4 -6 8 -2',
  },
  'first-layer-gaps': {
    part: 'M16 14H80M16 26H80M16 38H80M16 50H80',
    flaw: 'M16 20H80M16 32H80M16 44H80',
    aid: 'M10 6H86V58H10Z',
  },
  'first-layer-ridges': {
    aid: bed,
    part: 'M10 54H24M40 54H56M72 54H86',
    flaw: 'M24 54C26 44 30 44 32 50C34 44 38 46 40 54M56 54C58 42 62 44 64 50C66 44 70 44 72 54',
  },
  'first-layer-uneven': {
    part: 'M12 14H46M12 22H46M12 30H46M12 38H46M12 46H46',
    flaw: 'M52 14q4 3 8 0t8 0M58 22h4M70 23h6M52 30q6 -4 12 1M72 31h6M54 39h5M66 38q5 3 10 0M54 47h8M70 46h4',
    aid: 'M6 6H90V56H6Z',
  },
  'first-lines-missing': {
    part: 'M48 14H80V50H16V14H22',
    flaw: 'M26 14h3M33 14h3M40 14h3',
    aid: 'M6 6H90V58H6Z',
  },
  'base-flare': { aid: bed, part: 'M28 50V12H68V50', flaw: 'M28 50C26 52 20 52 20 58H76C76 52 70 52 68 50' },
  'details-lost-first-layer': {
    aid: 'M6 6H90V58H6Z',
    part: 'M20 46V18H34M20 32H30M44 46V18',
    flaw: 'M54 46q2 -6 0 -12M58 20q8 -2 12 2M58 32h3M66 33q6 2 4 8M56 46h6',
  },
  'base-bows': {
    aid: bed,
    part: 'M24 10V38M72 10V38M24 10H72',
    flaw: 'M24 38C32 46 32 50 22 58H74C64 50 64 46 72 38',
  },
  'hard-to-remove': {
    aid: bed + 'M8 62H88',
    part: 'M28 58V30H68V58',
    flaw: 'M48 26V8M48 8l-6 7M48 8l6 7M34 58v4M48 58v4M62 58v4',
  },

  'seam-line': { aid: bed, part: 'M26 58V12C26 6 70 6 70 12V58', flaw: 'M50 10V58M53 10V58' },
  'seam-bumps-scattered': {
    aid: bed,
    part: 'M26 58V12C26 6 70 6 70 12V58',
    spot: 'M34 18a2 2 0 1 0 .1 0M56 24a2 2 0 1 0 .1 0M42 31a2 2 0 1 0 .1 0M64 37a2 2 0 1 0 .1 0M37 44a2 2 0 1 0 .1 0M54 50a2 2 0 1 0 .1 0',
  },
  'seam-blob': { part: ring, spot: 'M48 3a6 5 0 1 0 .1 0' },
  'seam-gap': { part: 'M53 8.6A24 24 0 1 1 43 8.6M48 20A12 12 0 1 1 47.9 20', flaw: 'M43 4V14M53 4V14' },
  'crack-along-seam': {
    aid: bed,
    part: 'M26 58V12C26 6 70 6 70 12V58',
    flaw: 'M50 8L47 20L52 30L48 42L53 58M53 8L56 20',
  },

  'bands-regular': { aid: bed, part: wall, flaw: 'M30 14H66M30 26H66M30 38H66M30 50H66' },
  'bands-at-feature-height': {
    aid: bed,
    part: wall + 'M38 24H50V38H38Z',
    flaw: 'M30 24H38M50 24H66M30 38H38M50 38H66',
  },
  'bands-gloss': {
    aid: bed,
    part: wall,
    flaw: 'M30 20H66M30 34H66M30 46H66',
    spot: 'M34 24l3 0l-4 7l-3 0ZM46 24l3 0l-4 7l-3 0ZM58 24l3 0l-4 7l-3 0Z',
  },
  'bands-irregular': {
    aid: bed,
    part: wall,
    flaw: 'M30 12H66M30 15H66M30 27H66M30 30H66M30 34H66M30 48H66M30 51H66',
  },
  'dull-finish': {
    aid: bed,
    part: block,
    flaw: 'M30 24l8 -6M30 34l22 -16M30 44l36 -26M32 52l36 -26M46 52l22 -16M60 52l8 -6',
  },
  ghosting: {
    aid: bed,
    part: 'M20 10V52M20 10H84V52',
    flaw: 'M28 16C26 28 30 36 28 50M36 16C34.500 28 37.500 36 36 50M44 18C43 28 45 36 44 48M52 20V46',
  },
  'vertical-fine-ribs': {
    aid: bed,
    part: block,
    flaw: 'M29 18V56M34 18V56M39 18V56M44 18V56M49 18V56M54 18V56M59 18V56M64 18V56',
  },

  'outside-too-big': {
    part: 'M30 20H66V48H30Z',
    flaw: 'M24 14H72V54H24Z',
    aid: 'M6 34h12M18 34l-4 -3M18 34l-4 3M90 34H78M78 34l4 -3M78 34l4 3',
  },
  'outside-too-small': {
    part: 'M24 14H72V54H24Z',
    flaw: 'M31 20H65V48H31Z',
    aid: 'M12 34h12M24 34l-4 -3M24 34l-4 3M84 34H72M72 34l4 -3M72 34l4 3',
  },
  'holes-too-small': {
    part: 'M20 10H76V56H20Z',
    aid: 'M48 21A12 12 0 1 1 47.9 21',
    flaw: 'M48 25A8 8 0 1 1 47.9 25',
  },
  'error-constant': {
    part: 'M16 20H40M16 44H72',
    flaw: 'M40 16V24M46 16V24M40 20H46M72 40V48M78 40V48M72 44H78',
    aid: 'M16 14V50',
  },
  'error-grows-with-length': {
    part: 'M16 20H40M16 44H66',
    flaw: 'M40 16V24M43 16V24M40 20H43M66 40V48M80 40V48M66 44H80',
    aid: 'M16 14V50',
  },
  'one-axis-only': {
    part: 'M30 18H66V50H30Z',
    flaw: 'M22 34H8M8 34l4 -3M8 34l4 3M74 34H88M88 34l-4 -3M88 34l-4 3',
    aid: 'M48 12V4M48 56V62',
  },
  'height-wrong': {
    aid: bed,
    part: 'M30 58V24H58V58',
    flaw: 'M30 24V14H58V24M70 14V58M70 14l-3 5M70 14l3 5M70 58l-3 -5M70 58l3 -5',
  },
  'not-square': { part: 'M30 12H78L66 52H18Z', flaw: 'M30 12L66 52', aid: 'M78 12L18 52' },
  'round-not-round': {
    aid: 'M48 8A24 24 0 1 1 47.9 8',
    flaw: 'M48 10C68 8 76 22 72 36C68 52 56 58 42 55C26 52 20 38 25 26C29 16 36 11 48 10',
  },
  'moving-parts-fused': { part: 'M16 22H44V44H16ZM52 22H80V44H52Z', flaw: 'M44 28H52M44 33H52M44 38H52' },
  'joint-too-loose': {
    part: 'M14 20H40V46H14ZM62 26H82V40H62Z',
    flaw: 'M40 28L62 31M40 38L62 35M48 20q4 -5 8 0M48 46q4 5 8 0',
  },

  'gaps-between-walls': { part: 'M16 16H80V50H16ZM26 26H70V40H26Z', flaw: 'M21 21H75V45H21Z' },
  'gaps-in-solid-fill': {
    part: top,
    flaw: 'M26 50L56 14M36 50L66 14M46 50L74 17',
    aid: 'M22 40L44 14M22 28L34 14M56 50L74 28M66 50L74 40',
  },
  'top-rough-overfull': {
    aid: bed,
    part: 'M20 58V30M76 58V30',
    flaw: 'M20 30q4 -8 8 0t8 0t8 0t8 0t8 0t8 0t8 0',
  },
  'weak-layers': { aid: bed, part: 'M28 58V38H62V58M34 12L66 20L62 38L30 30Z', flaw: 'M26 35L64 41' },
  'layer-splits': { aid: bed, part: 'M30 58V8H66V58', flaw: 'M30 30L40 32L50 29L66 31M30 34L42 35' },
  'missing-layers': {
    aid: bed,
    part: 'M30 58V34H66V58M30 26V8H66V26M30 26H66M30 34H66',
    flaw: 'M33 30h4M42 30h4M51 30h4M60 30h3',
  },
  'thinner-at-speed': {
    aid: bed,
    part: 'M8 26H26M70 26H88M8 34H26M70 34H88',
    flaw: 'M26 26C36 29 60 29 70 26M26 34C36 31 60 31 70 34',
  },
  'extruder-clicks': {
    part: 'M34 16A18 18 0 1 1 33.9 16M70 8V58M76 8V58',
    flaw: 'M20 12l-5 -6M12 22l-8 -2M12 46l-7 4',
    aid: 'M34 30A4 4 0 1 1 33.9 30',
  },
  'filament-ground': {
    part: 'M40 4V60M56 4V22M56 42V60',
    flaw: 'M56 22L50 26L56 29L50 33L56 36L50 39L56 42',
    spot: 'M64 40a1.5 1.5 0 1 0 .1 0M70 46a1.500 1.5 0 1 0 .1 0M66 52a1.5 1.5 0 1 0 .1 0M74 54a1.5 1.5 0 1 0 .1 0',
  },
  'flow-stops-midprint': { part: nozzle + 'M28 58V46H68V58', aid: bed, flaw: 'M48 27v3M48 33v3M48 39v3' },
  'holes-in-soft-wall': {
    aid: bed,
    part: 'M26 58V12C26 6 70 6 70 12V58',
    flaw: 'M38 26l8 3l-6 5ZM54 40l7 -3l-2 7ZM40 48l6 1l-4 4Z',
  },
  'sagging-overhangs': {
    aid: bed,
    part: 'M22 58V16H40V58M40 16H78',
    flaw: 'M40 26C52 28 66 34 78 28M40 30C52 36 66 42 76 34',
  },
  'tips-melt': {
    aid: bed,
    part: 'M30 58L42 26M66 58L54 26',
    flaw: 'M42 26C36 14 44 8 48 10C54 6 62 14 54 26',
  },
  'bridge-sags': {
    aid: bed,
    part: 'M14 58V18H30V58M66 58V18H82V58M30 18H66',
    flaw: 'M30 21C42 32 54 32 66 21M30 25C42 40 54 40 66 25',
  },
  'top-pillows': {
    aid: bed,
    part: 'M16 58V30M80 58V30M32 58V34M48 58V34M64 58V34',
    flaw: 'M16 30q8 -9 16 0t0 0q8 -9 16 0q8 -9 16 0q8 -9 16 0',
    spot: 'M40 33a1.8 1.8 0 1 0 .1 0M56 33a1.8 1.8 0 1 0 .1 0',
  },
  'support-scars': {
    part: 'M14 12H82V26H14Z',
    aid: bed + 'M26 58V34M36 58V34M46 58V34M56 58V34M66 58V34',
    flaw: 'M24 26l2 5l2 -4l3 4l2 -5M42 26l3 6l2 -5l3 3l2 -4M60 26l2 4l3 -3l2 5l3 -6',
  },
  'layers-shifted': {
    aid: bed,
    part: 'M22 58V36H66V58M32 36V10H76V36H66M22 36H32',
    flaw: 'M22 36V32M66 36H76V40M14 36h5M79 36h5',
  },
  'edges-curl-up': {
    aid: bed,
    part: 'M24 58V46H48V36H58V28H66',
    flaw: 'M58 28C68 29 76 26 80 16M52 36C62 37 70 35 75 28M82 14l4 -6',
    spot: 'M70 4H84L79 12H75Z',
  },
  'filament-snaps': {
    aid: 'M70 14a12 12 0 1 0 .1 0M10 58H34V44H10Z',
    part: 'M58 26C48 26 46 34 42 36M34 42C28 46 22 44 22 52',
    flaw: 'M42 36l-3 -5M42 36l2 5M34 42l-1 -6M34 42l5 2M36 34l4 8',
  },
  'works-then-stops': {
    part: nozzle,
    aid: 'M12 58H84M76 14a10 10 0 1 0 .1 0M76 17V24L81 27',
    flaw: 'M48 26V34M48 38V42M48 46V48M14 52H46',
  },
  'waves-regular-height': {
    aid: bed,
    part: 'M32 58C27 54 27 50 32 46C37 42 37 38 32 34C27 30 27 26 32 22C37 18 37 14 32 10H66',
    flaw: 'M66 58C71 54 71 50 66 46C61 42 61 38 66 34C71 30 71 26 66 22C61 18 61 14 66 10',
  },
  'corners-bulge': {
    part: 'M24 14H72M80 22V44M72 52H24M16 44V22',
    flaw: 'M24 14C18 8 10 8 10 14C8 18 12 22 16 22M72 14C78 8 86 8 86 14C88 18 84 22 80 22M80 44C84 44 88 48 86 52C86 58 78 58 72 52M16 44C12 44 8 48 10 52C10 58 18 58 24 52',
  },
  'corners-hollow': {
    part: 'M16 10H80V54H16Z',
    aid: 'M24 18H72V46H24Z',
    flaw: 'M16 10M20 14C26 18 32 18 38 13M76 16C72 22 72 28 77 34M76 50C70 46 64 46 58 51M20 48C24 42 24 36 19 30',
  },
  'ripple-fine-even': {
    aid: bed,
    part: block,
    flaw: 'M28 20q2 18 0 36M33 20q2 18 0 36M38 20q2 18 0 36M43 20q2 18 0 36M48 20q2 18 0 36M53 20q2 18 0 36M58 20q2 18 0 36M63 20q2 18 0 36M68 20q2 18 0 36',
  },
  'part-leans': {
    aid: bed + 'M30 58V8',
    part: 'M30 58L44 10H76L62 58',
    flaw: 'M30 20A40 40 0 0 1 40 21',
  },
  'plastic-on-block': {
    aid: 'M20 58H76',
    part: 'M30 8H66V26H30ZM40 30H56L51 40H45Z',
    flaw: 'M32 26C30 32 36 34 34 40M64 26C67 32 61 35 63 42M38 26C40 28 42 29 40 30',
    spot: 'M34 46a2 2 0 1 0 .1 0M63 49a2.4 2.4 0 1 0 .1 0M48 53a1.6 1.6 0 1 0 .1 0',
  },
  'splits-across-load': {
    part: 'M12 8V58H26V40H40V28H26V8ZM46 28H84V40H46',
    flaw: 'M40 26L44 31L41 35L46 42M78 14V24M78 24l-4 -5M78 24l4 -5',
  },
  'slow-layers-soft': {
    aid: bed + 'M70 14H88M70 22H84M70 30H88',
    part: 'M34 58V34M62 58V34',
    flaw: 'M34 34C28 24 38 22 42 24C44 14 54 14 55 23C62 20 68 28 62 34',
  },
  'stuck-fast': {
    aid: 'M4 58H32M64 58H92',
    part: 'M32 58V26H64V58',
    flaw: 'M32 58L36 63H60L64 58M48 22V6M48 6l-6 7M48 6l6 7',
  },
}

/** The material families the app has a card for. Ids are stable. */
export const FAMILIES = [
  'pla',
  'pla-silk',
  'petg',
  'abs',
  'asa',
  'tpu-95a',
  'tpu-85a',
  'peba',
  'pa',
  'pc',
  'pp',
] as const
export type FamilyId = (typeof FAMILIES)[number]

export interface Range {
  min: number
  max: number
}

/** What is known of a family before a label is read or a trial printed. All from memory unless tagged. */
export interface MaterialCard {
  id: FamilyId
  name: string
  /** g/cm³ */
  density: number
  /** °C at which the plastic goes soft. */
  softening: number
  /** °C below which a bead carries the next layer; from memory, a little under Tg for glassy plastics. */
  solidAt: number
  /** Thermal expansion, 1e-6/K. */
  expansion: number
  /** Linear shrink from mould-like cooling, %. */
  shrink: number
  /** Young's modulus, GPa, from memory. */
  stiffness: number
  /** J/(kg·K), from memory. */
  heatCapacity: number
  nozzle: Range & { start: number }
  bed: { first: number; rest: number; top: number }
  /** Fan duty, %. */
  fan: { rest: number; overhang: number; offLayers: number }
  /** mm/s */
  speed: { outer: number; inner: number; top?: number; bridge?: number }
  /** mm³/s through a 0.4 mm brass nozzle on a standard hot end. */
  meltRate: number
  /** mm; `tube` is for a 400 mm tube, null where retraction is left off on a tube. */
  retraction: { direct: number; tube: number | null }
  drying: { temperature: number; hours: number; hygroscopic: boolean; openDays: number }
  /** Soft enough to fold in a drive. */
  flexible: boolean
  /** Shore hardness the card assumes, e.g. 95 for 95A; null for rigid plastics. */
  shore: number | null
  /** Pulls itself off the bed or splits without warm air. */
  wantsEnclosure: boolean
  /** Its fumes want a filter. */
  fumes: boolean
  /** Bed surfaces the family is known to hold on. */
  surfaces: Surface[]
}

export const SURFACES = ['glass', 'glass-glue', 'smooth-sheet', 'textured-sheet', 'tape'] as const
export type Surface = (typeof SURFACES)[number]
export const SURFACE_NAMES: Record<Surface, string> = {
  glass: 'bare glass',
  'glass-glue': 'glass with glue',
  'smooth-sheet': 'smooth sheet',
  'textured-sheet': 'textured sheet',
  tape: 'masking tape',
}

const rigid = { flexible: false, shore: null } as const

export const CARDS: Record<FamilyId, MaterialCard> = {
  pla: {
    ...rigid,
    id: 'pla',
    name: 'PLA',
    density: 1.24,
    softening: 57,
    solidAt: 52,
    expansion: 68,
    shrink: 0.3,
    stiffness: 3.3,
    heatCapacity: 1800,
    nozzle: { min: 190, max: 220, start: 208 },
    bed: { first: 60, rest: 60, top: 65 },
    fan: { rest: 100, overhang: 100, offLayers: 2 },
    speed: { outer: 40, inner: 60 },
    meltRate: 12,
    retraction: { direct: 0.8, tube: 5 },
    drying: { temperature: 48, hours: 5, hygroscopic: false, openDays: 60 },
    wantsEnclosure: false,
    fumes: false,
    surfaces: ['glass', 'glass-glue', 'smooth-sheet', 'textured-sheet', 'tape'],
  },
  'pla-silk': {
    ...rigid,
    id: 'pla-silk',
    name: 'PLA, silk finish',
    density: 1.24,
    softening: 55,
    solidAt: 50,
    expansion: 68,
    shrink: 0.3,
    stiffness: 2.6,
    heatCapacity: 1800,
    nozzle: { min: 205, max: 225, start: 215 },
    bed: { first: 60, rest: 60, top: 65 },
    fan: { rest: 40, overhang: 100, offLayers: 2 },
    speed: { outer: 40, inner: 40, top: 30 },
    meltRate: 10,
    retraction: { direct: 0.8, tube: 5 },
    drying: { temperature: 48, hours: 5, hygroscopic: false, openDays: 60 },
    wantsEnclosure: false,
    fumes: false,
    surfaces: ['glass', 'glass-glue', 'smooth-sheet', 'textured-sheet', 'tape'],
  },
  petg: {
    ...rigid,
    id: 'petg',
    name: 'PETG',
    density: 1.27,
    softening: 80,
    solidAt: 75,
    expansion: 60,
    shrink: 0.4,
    stiffness: 2.0,
    heatCapacity: 1200,
    nozzle: { min: 230, max: 250, start: 240 },
    bed: { first: 80, rest: 75, top: 85 },
    fan: { rest: 40, overhang: 80, offLayers: 2 },
    speed: { outer: 35, inner: 50 },
    meltRate: 9,
    retraction: { direct: 1, tube: 4.5 },
    drying: { temperature: 65, hours: 5, hygroscopic: true, openDays: 14 },
    wantsEnclosure: false,
    fumes: false,
    surfaces: ['glass-glue', 'textured-sheet', 'tape'],
  },
  abs: {
    ...rigid,
    id: 'abs',
    name: 'ABS',
    density: 1.04,
    softening: 105,
    solidAt: 100,
    expansion: 90,
    shrink: 0.7,
    stiffness: 2.1,
    heatCapacity: 1400,
    nozzle: { min: 230, max: 255, start: 240 },
    bed: { first: 105, rest: 95, top: 110 },
    fan: { rest: 0, overhang: 20, offLayers: 3 },
    speed: { outer: 40, inner: 60 },
    meltRate: 11,
    retraction: { direct: 0.8, tube: 4.5 },
    drying: { temperature: 75, hours: 3, hygroscopic: false, openDays: 60 },
    wantsEnclosure: true,
    fumes: true,
    surfaces: ['glass-glue', 'smooth-sheet', 'textured-sheet'],
  },
  asa: {
    ...rigid,
    id: 'asa',
    name: 'ASA',
    density: 1.07,
    softening: 105,
    solidAt: 100,
    expansion: 90,
    shrink: 0.6,
    stiffness: 2.0,
    heatCapacity: 1400,
    nozzle: { min: 240, max: 260, start: 250 },
    bed: { first: 105, rest: 95, top: 110 },
    fan: { rest: 0, overhang: 20, offLayers: 3 },
    speed: { outer: 40, inner: 60 },
    meltRate: 11,
    retraction: { direct: 0.8, tube: 4.5 },
    drying: { temperature: 80, hours: 4, hygroscopic: false, openDays: 60 },
    wantsEnclosure: true,
    fumes: true,
    surfaces: ['glass-glue', 'smooth-sheet', 'textured-sheet'],
  },
  'tpu-95a': {
    id: 'tpu-95a',
    name: 'TPU 95A',
    density: 1.21,
    softening: 80,
    solidAt: 90,
    expansion: 150,
    shrink: 0.8,
    stiffness: 0.07,
    heatCapacity: 1700,
    nozzle: { min: 215, max: 235, start: 225 },
    bed: { first: 45, rest: 45, top: 60 },
    fan: { rest: 50, overhang: 80, offLayers: 2 },
    speed: { outer: 25, inner: 30 },
    meltRate: 3.5,
    retraction: { direct: 0.6, tube: null },
    drying: { temperature: 55, hours: 6, hygroscopic: true, openDays: 14 },
    flexible: true,
    shore: 95,
    wantsEnclosure: false,
    fumes: false,
    surfaces: ['glass', 'glass-glue', 'smooth-sheet', 'textured-sheet', 'tape'],
  },
  'tpu-85a': {
    id: 'tpu-85a',
    name: 'TPU 85A',
    density: 1.18,
    softening: 70,
    solidAt: 85,
    expansion: 160,
    shrink: 0.8,
    stiffness: 0.02,
    heatCapacity: 1700,
    nozzle: { min: 215, max: 230, start: 222 },
    bed: { first: 40, rest: 40, top: 60 },
    fan: { rest: 50, overhang: 100, offLayers: 2 },
    speed: { outer: 18, inner: 22 },
    meltRate: 2,
    retraction: { direct: 0.4, tube: null },
    drying: { temperature: 55, hours: 8, hygroscopic: true, openDays: 14 },
    flexible: true,
    shore: 85,
    wantsEnclosure: false,
    fumes: false,
    surfaces: ['glass', 'glass-glue', 'smooth-sheet', 'textured-sheet', 'tape'],
  },
  peba: {
    id: 'peba',
    name: 'PEBA',
    density: 1.01,
    softening: 60,
    solidAt: 110,
    expansion: 180,
    shrink: 1,
    stiffness: 0.09,
    heatCapacity: 1900,
    nozzle: { min: 240, max: 260, start: 250 },
    bed: { first: 95, rest: 95, top: 100 },
    fan: { rest: 30, overhang: 60, offLayers: 2 },
    speed: { outer: 40, inner: 40, bridge: 20 },
    meltRate: 4,
    retraction: { direct: 0.6, tube: null },
    drying: { temperature: 65, hours: 10, hygroscopic: true, openDays: 14 },
    flexible: true,
    shore: 90,
    wantsEnclosure: false,
    fumes: true,
    surfaces: ['glass-glue', 'smooth-sheet', 'textured-sheet'],
  },
  pa: {
    ...rigid,
    id: 'pa',
    name: 'PA (nylon)',
    density: 1.13,
    softening: 55,
    solidAt: 150,
    expansion: 90,
    shrink: 1.2,
    stiffness: 1.6,
    heatCapacity: 1700,
    nozzle: { min: 245, max: 270, start: 258 },
    bed: { first: 80, rest: 75, top: 90 },
    fan: { rest: 10, overhang: 40, offLayers: 3 },
    speed: { outer: 40, inner: 55 },
    meltRate: 9,
    retraction: { direct: 0.8, tube: 4.5 },
    drying: { temperature: 75, hours: 12, hygroscopic: true, openDays: 2 },
    wantsEnclosure: true,
    fumes: false,
    surfaces: ['glass-glue', 'textured-sheet'],
  },
  pc: {
    ...rigid,
    id: 'pc',
    name: 'PC',
    density: 1.2,
    softening: 147,
    solidAt: 140,
    expansion: 68,
    shrink: 0.6,
    stiffness: 2.2,
    heatCapacity: 1200,
    nozzle: { min: 270, max: 300, start: 285 },
    bed: { first: 115, rest: 110, top: 120 },
    fan: { rest: 0, overhang: 20, offLayers: 3 },
    speed: { outer: 35, inner: 50 },
    meltRate: 8,
    retraction: { direct: 0.8, tube: 4 },
    drying: { temperature: 85, hours: 8, hygroscopic: true, openDays: 7 },
    wantsEnclosure: true,
    fumes: false,
    surfaces: ['glass-glue', 'smooth-sheet', 'textured-sheet'],
  },
  pp: {
    ...rigid,
    id: 'pp',
    name: 'PP',
    density: 0.9,
    softening: 100,
    solidAt: 100,
    expansion: 120,
    shrink: 1.8,
    stiffness: 1.3,
    heatCapacity: 1900,
    nozzle: { min: 220, max: 245, start: 230 },
    bed: { first: 90, rest: 85, top: 100 },
    fan: { rest: 20, overhang: 50, offLayers: 2 },
    speed: { outer: 30, inner: 45 },
    meltRate: 8,
    retraction: { direct: 0.8, tube: 4.5 },
    drying: { temperature: 60, hours: 5, hygroscopic: false, openDays: 60 },
    wantsEnclosure: true,
    fumes: false,
    surfaces: ['tape', 'textured-sheet'],
  },
}

/** The card of a family. */
export function cardOf(family: FamilyId): MaterialCard {
  return CARDS[family]
}

import type { Machine } from './machine'

/** A machine without its name and what only its owner knows. */
export type MachineKind = Omit<Machine, 'name' | 'notes'>

const BED = { shape: 'rectangle', printsSinceLevel: null, printsSinceWash: null, residual: null } as const
const SCREW = { lead: 8, stepsPerTurn: 200 }
const BELT = { pitch: 2, teeth: 20 }

/**
 * Kinds of machine in general words, to begin with: what machines of that build usually have and bear. Each value is assumed
 * until its owner says otherwise. Common practice, no source.
 */
export const MACHINE_KINDS = {
  'open-tube': {
    label: 'Open frame, fed through a tube',
    body: {
      nozzle: { diameter: 0.4, material: 'brass', changedOn: null },
      drive: { kind: 'tube', tubeLength: 400 },
      frame: 'open',
      hotEnd: null,
      fan: { present: true, strength: 0.8 },
      bed: { ...BED, width: 220, depth: 220, surface: 'glass', levelling: 'screws' },
      height: 250,
      limits: {
        nozzle: 250,
        bed: 100,
        speed: 150,
        zSpeed: 8,
        acceleration: 1000,
        travelAcceleration: 1500,
        corner: { kind: 'instant-change', limit: 8 },
      },
      chamber: null,
      z: SCREW,
      belt: BELT,
    },
  },
  'open-direct': {
    label: 'Open frame, drive on the head',
    body: {
      nozzle: { diameter: 0.4, material: 'brass', changedOn: null },
      drive: { kind: 'direct', tubeLength: 0 },
      frame: 'open',
      hotEnd: null,
      fan: { present: true, strength: 1 },
      bed: { ...BED, width: 220, depth: 220, surface: 'textured-sheet', levelling: 'probe' },
      height: 240,
      limits: {
        nozzle: 260,
        bed: 100,
        speed: 200,
        zSpeed: 10,
        acceleration: 2000,
        travelAcceleration: 2500,
        corner: { kind: 'junction-deviation', deviation: 0.02 },
      },
      chamber: null,
      z: SCREW,
      belt: BELT,
    },
  },
  'enclosed-fast': {
    label: 'Enclosed and fast, drive on the head',
    body: {
      nozzle: { diameter: 0.4, material: 'hardened', changedOn: null },
      drive: { kind: 'direct', tubeLength: 0 },
      frame: 'enclosed',
      hotEnd: 'all-metal',
      fan: { present: true, strength: 1.2 },
      bed: { ...BED, width: 250, depth: 250, surface: 'textured-sheet', levelling: 'probe' },
      height: 250,
      limits: {
        nozzle: 300,
        bed: 110,
        speed: 400,
        zSpeed: 15,
        acceleration: 8000,
        travelAcceleration: 10_000,
        corner: { kind: 'junction-deviation', deviation: 0.02 },
      },
      chamber: null,
      z: SCREW,
      belt: BELT,
    },
  },
  'large-open': {
    label: 'Large open frame, long tube',
    body: {
      nozzle: { diameter: 0.4, material: 'brass', changedOn: null },
      drive: { kind: 'tube', tubeLength: 600 },
      frame: 'open',
      hotEnd: null,
      fan: { present: true, strength: 0.8 },
      bed: { ...BED, width: 300, depth: 300, surface: 'glass', levelling: 'screws' },
      height: 400,
      limits: {
        nozzle: 250,
        bed: 100,
        speed: 120,
        zSpeed: 8,
        acceleration: 700,
        travelAcceleration: 1000,
        corner: { kind: 'instant-change', limit: 8 },
      },
      chamber: null,
      z: SCREW,
      belt: BELT,
    },
  },
} as const satisfies Record<string, { label: string; body: MachineKind }>
export type MachineKindId = keyof typeof MACHINE_KINDS
/** The kinds, the usual one first. */
export const keysOfKinds = (): MachineKindId[] => Object.keys(MACHINE_KINDS) as MachineKindId[]

/** What its owner alone can know is not assumed. */
const OWN = new Set(['name', 'notes', 'assumed', 'commands'])

/** Values of a machine with their places, without those that say "not known": `limits.nozzle` → 250. */
function valuesOf(machine: object, at = ''): Map<string, unknown> {
  const out = new Map<string, unknown>()
  for (const [key, value] of Object.entries(machine)) {
    if (!at && OWN.has(key)) continue
    if (value === null || value === undefined || Array.isArray(value)) continue
    if (typeof value === 'object')
      for (const [k, v] of valuesOf(value as object, `${at}${key}.`)) out.set(k, v)
    else out.set(`${at}${key}`, value)
  }
  return out
}

/** Places of a new machine whose values are still those of what it began with. */
export function assumedOf(machine: Partial<Machine>, from: MachineKind): string[] {
  const own = valuesOf(machine)
  return [...valuesOf(from)].filter(([at, value]) => own.get(at) === value).map(([at]) => at)
}

/** What is still assumed after a machine was changed: what had another value is known now. */
export function stillAssumed(before: Machine, after: Partial<Machine>): string[] {
  const [was, is] = [valuesOf(before), valuesOf(after)]
  return (before.assumed ?? []).filter((at) => was.get(at) === is.get(at))
}

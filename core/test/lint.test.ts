import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import type { Machine } from '../src/machine'
import type { FamilyId, Filament } from '../src/material'
import { said } from '../src/quantity'
import {
  LINT_RULE_IDS,
  deriveRecipe,
  faultOf,
  keysOf,
  layOver,
  lintRecipe,
  type Changes,
  type LintContext,
  type LintRuleId,
  type Pins,
} from '../src/recipe'
import { sayWarning } from '../src/words'
import { hand } from './lib/diagnose'

const { shed, greenhouse } = DEMO_MACHINES
const today = '2026-01-10'
const roll = (family: FamilyId, more: Partial<Filament> = {}): Filament => ({
  ...demoFilaments(today).terracotta,
  family,
  finish: 'plain',
  label: { nozzle: null, bed: null, speed: null, drying: null },
  dryings: [{ on: today, temperature: null, hours: null }],
  ...more,
})
const pla = roll('pla')
const soft = roll('tpu-95a')
const softer = roll('tpu-85a')

interface Situation {
  machine?: Machine
  filament?: Filament
  set?: Changes
  /** Of those set, which were measured. */
  measured?: boolean
  part?: LintContext['part']
}
function pinsOf({ set = {}, measured }: Situation): Pins {
  if (!measured) return hand(set)
  const all = Object.fromEntries(keysOf(set).map((k) => [k, 1]))
  return layOver({}, set, { source: 'hand', reason: said('Measured.'), measured: all })
}
const warningsIn = (s: Situation, pins = pinsOf(s)) => {
  const { machine = shed, filament = pla, part } = s
  return lintRecipe({ machine, filament, values: deriveRecipe({ machine, filament, pins }), today, part })
}
const bedResidual = (residual: number): Machine => ({ ...shed, bed: { ...shed.bed, residual } })
const nozzleLimit = (nozzle: number): Machine => ({ ...shed, limits: { ...shed.limits, nozzle } })
const bedLimit = (bed: number): Machine => ({ ...shed, limits: { ...shed.limits, bed } })
const bareGlass: Machine = { ...shed, bed: { ...shed.bed, surface: 'glass' } }
const fine: Machine = { ...shed, nozzle: { ...shed.nozzle, diameter: 0.25 } }
const slowOne: Machine = { ...shed, limits: { ...shed.limits, speed: 110 } }
const labelled = roll('pla', { label: { ...pla.label, speed: { min: 20, max: 50 } } })

/** Each rule: where it bites, and next to it where it does not. A rule that is missing here does not compile. */
const CASES: Record<LintRuleId, { bites: Situation[]; silent: Situation[] }> = {
  'first-flow-left': {
    bites: [{ set: { flowFirst: 120 } }, { set: { flowFirst: 106 } }],
    silent: [{}, { set: { flowFirst: 105 } }, { set: { flowFirst: 110 }, measured: true }],
  },
  'flow-far': {
    bites: [{ set: { flow: 108 } }, { set: { flow: 92 } }],
    silent: [{ set: { flow: 105 } }, { set: { flow: 92 }, measured: true }],
  },
  'feature-flow-far': {
    bites: [{ set: { flowSolid: 112 } }, { set: { flowOuter: 90, flowSparse: 115 } }],
    silent: [{ set: { flowSolid: 108 } }, { set: { flowSolid: 112 }, measured: true }],
  },
  'melt-cap-far': {
    bites: [{ set: { meltCap: 50 } }, { machine: fine, set: { meltCap: 20 } }],
    silent: [
      {},
      { set: { meltCap: 25 } },
      { set: { meltCap: 50 }, measured: true },
      { machine: { ...shed, meltZone: 'high-flow' }, set: { meltCap: 40 } },
    ],
  },
  'over-melt-cap': {
    bites: [{ machine: greenhouse, filament: soft, set: { outerSpeed: 60 } }],
    silent: [{ machine: greenhouse, filament: soft }, { set: { outerSpeed: 60 } }],
  },
  'brim-on-soft': {
    bites: [{ machine: greenhouse, filament: softer, set: { brimLines: 4 } }],
    silent: [{ machine: greenhouse, filament: softer }, { set: { brimLines: 4 } }],
  },
  'raft-on-soft': {
    bites: [{ machine: greenhouse, filament: softer, set: { raft: true } }],
    silent: [{ machine: greenhouse, filament: softer }, { set: { raft: true } }],
  },
  'nothing-primes': {
    bites: [{ set: { skirtLoops: 0 } }],
    silent: [{}, { set: { skirtLoops: 0, brimLines: 6 } }, { set: { skirtLoops: 0, raft: true } }],
  },
  'open-and-draughty': {
    bites: [{ filament: roll('abs'), set: { draughtWall: 0 } }],
    silent: [
      { filament: roll('abs'), set: { draughtWall: 1 } },
      { machine: { ...shed, frame: 'enclosed' }, filament: roll('abs'), set: { draughtWall: 0 } },
      {},
    ],
  },
  'fan-on-shrinking': {
    bites: [{ filament: roll('abs'), set: { fan: 60 } }],
    silent: [{ filament: roll('abs') }, { set: { fan: 60 } }],
  },
  'fan-early': {
    bites: [{ set: { fanOffLayers: 0 } }],
    silent: [{ set: { fanOffLayers: 1 } }, { set: { fanOffLayers: 0, fan: 0 } }],
  },
  'layer-time-swings': {
    bites: [{ set: { minLayerTime: 30, speedFloor: 10 } }, { set: { minLayerTime: 13 } }],
    silent: [{}, { set: { minLayerTime: 12 } }],
  },
  'floor-low': {
    bites: [{ set: { speedFloor: 5 } }],
    silent: [{ set: { speedFloor: 12 } }, { machine: greenhouse, filament: soft, set: { speedFloor: 5 } }],
  },
  'layer-too-thick': {
    bites: [{ set: { layerHeight: 0.36 } }],
    silent: [{ set: { layerHeight: 0.28 } }, { set: { layerHeight: 0.3 } }],
  },
  'layer-off-step': {
    bites: [{ set: { layerHeight: 0.18 } }],
    silent: [{ set: { layerHeight: 0.16 } }],
  },
  'line-narrow': {
    bites: [{ set: { outerWidth: 0.35 } }],
    silent: [{ set: { outerWidth: 0.4 } }],
  },
  'line-wide': {
    bites: [{ set: { firstWidth: 0.95 } }],
    silent: [{ set: { firstWidth: 0.8 } }],
  },
  'seam-on-flexing': {
    bites: [
      { machine: greenhouse, filament: soft, set: { seamPlace: 'stacked' } },
      { machine: greenhouse, filament: soft, set: { seamPlace: 'tucked' } },
    ],
    silent: [{ machine: greenhouse, filament: soft }, { set: { seamPlace: 'stacked' } }],
  },
  'first-height-far': {
    bites: [{ machine: bedResidual(0.12), set: { firstHeight: 0.2 } }, { set: { firstHeight: 0.45 } }],
    silent: [{ machine: bedResidual(0.1), set: { firstHeight: 0.2 } }, { set: { firstHeight: 0.28 } }],
  },
  'first-thin': {
    bites: [{ set: { firstHeight: 0.12 } }, { set: { firstHeight: 0.2, layerHeight: 0.28 } }],
    silent: [{}, { set: { firstHeight: 0.2 } }, { machine: fine, set: { firstHeight: 0.13 } }],
  },
  'first-too-fast': {
    bites: [{ set: { firstSpeed: 60 } }, { set: { firstSpeed: 35, outerSpeed: 40 } }],
    silent: [{ set: { firstSpeed: 30 } }, { set: { firstSpeed: 20, outerSpeed: 20 } }],
  },
  'bed-too-cool': {
    bites: [
      { machine: bedLimit(80), filament: roll('abs') },
      { machine: bedLimit(60), filament: roll('pp') },
    ],
    silent: [
      { machine: bedLimit(100), filament: roll('abs') },
      { machine: bedLimit(90), filament: roll('abs') },
      { machine: bedLimit(0) },
    ],
  },
  'label-needed': {
    bites: [{ filament: roll('other', { label: { ...pla.label, nozzle: null } }) }],
    silent: [{ filament: roll('other', { label: { ...pla.label, nozzle: { min: 210, max: 240 } } }) }],
  },
  'filled-nozzle': {
    bites: [
      { filament: roll('pla', { finish: 'glow' }) },
      { machine: fine, filament: roll('pla', { finish: 'wood' }) },
      { filament: roll('pa', { abrasive: true }), machine: shed },
    ],
    silent: [{}, { filament: roll('pla', { finish: 'wood' }) }, { machine: fine }],
  },
  'machine-too-cool': {
    bites: [{ machine: nozzleLimit(240), filament: roll('pc') }],
    silent: [{ machine: nozzleLimit(240) }],
  },
  'nozzle-off-label': {
    bites: [
      { set: { nozzle: 235 } },
      { set: { nozzle: 180 } },
      {
        filament: roll('pla', { label: { ...pla.label, nozzle: { min: 200, max: 210 } } }),
        set: { nozzle: 216 },
      },
    ],
    silent: [
      {},
      {
        filament: roll('pla', { label: { ...pla.label, nozzle: { min: 200, max: 220 } } }),
        set: { nozzle: 216 },
      },
    ],
  },
  'bed-above-card': {
    bites: [{ filament: roll('petg'), set: { bed: 90 } }],
    silent: [
      { filament: roll('petg') },
      { filament: roll('petg', { label: { ...pla.label, bed: { min: 70, max: 95 } } }), set: { bed: 90 } },
    ],
  },
  'bed-first-above-card': {
    bites: [{ set: { bedFirst: 95 } }],
    silent: [
      {},
      {
        filament: roll('pla', { label: { ...pla.label, bed: { min: 70, max: 95 } } }),
        set: { bedFirst: 95 },
      },
    ],
  },
  'retraction-beyond-drive': {
    bites: [
      { set: { retractLength: 9 } },
      { machine: greenhouse, set: { retractLength: 3 } },
      { machine: greenhouse, filament: soft, set: { retractLength: 1.2 } },
    ],
    silent: [
      { set: { retractLength: 6 } },
      { machine: greenhouse, set: { retractLength: 2 } },
      { set: { retractLength: 9, retract: false } },
    ],
  },
  'retraction-short': {
    bites: [{ set: { retractLength: 2 } }],
    silent: [
      { set: { retractLength: 4 } },
      { set: { retractLength: 2 }, measured: true },
      { set: { retractLength: 2, retract: false } },
    ],
  },
  'soft-pulled-in-tube': {
    bites: [{ filament: soft, set: { retract: true } }],
    silent: [{ filament: soft }, { machine: greenhouse, filament: soft, set: { retract: true } }],
  },
  'early-stop-long': {
    bites: [{ set: { earlyStop: 0.2 } }],
    silent: [{ set: { earlyStop: 0.12 } }],
  },
  'travel-slow': {
    bites: [{ set: { travelSpeed: 80 } }],
    silent: [{ set: { travelSpeed: 100 } }, { machine: slowOne, set: { travelSpeed: 80 } }],
  },
  'speeds-apart': {
    bites: [{ set: { outerSpeed: 20, innerSpeed: 50, pressureCompensation: 0 } }],
    silent: [
      { set: { outerSpeed: 25, innerSpeed: 50, sparseSpeed: 50, pressureCompensation: 0 } },
      { set: { outerSpeed: 20, innerSpeed: 50, pressureCompensation: 0.05 } },
    ],
  },
  'outer-fastest': {
    bites: [{ set: { outerSpeed: 70 } }],
    silent: [{ set: { outerSpeed: 50, innerSpeed: 50 } }],
  },
  'over-label-speed': {
    bites: [{ filament: labelled, set: { innerSpeed: 60 } }],
    silent: [{ filament: labelled, set: { innerSpeed: 50, sparseSpeed: 50 } }, { set: { innerSpeed: 60 } }],
  },
  'held-at-limit': {
    bites: [{ set: { nozzle: 300 } }],
    silent: [{ set: { nozzle: 210 } }],
  },
  'contour-left': {
    bites: [{ set: { contourOffset: -0.1 } }, { set: { holeOffset: 0.2 } }],
    silent: [{ set: { contourOffset: 0.05 } }, { set: { contourOffset: -0.1 }, measured: true }],
  },
  'soft-through-tube': {
    bites: [{ filament: soft }],
    silent: [
      {},
      { machine: greenhouse, filament: soft },
      { machine: { ...shed, drive: { kind: 'tube', tubeLength: 200 } }, filament: soft },
    ],
  },
  'chips-glass': {
    bites: [
      { machine: bareGlass, filament: roll('petg') },
      { machine: bareGlass, filament: roll('pp') },
      { machine: bareGlass, filament: softer },
    ],
    silent: [
      { machine: bareGlass },
      { filament: roll('petg') },
      { machine: bareGlass, filament: roll('abs') },
    ],
  },
  'liner-unknown': {
    bites: [{ machine: { ...shed, hotEnd: null }, set: { nozzle: 245 } }],
    silent: [
      { machine: { ...shed, hotEnd: null }, set: { nozzle: 240 } },
      { machine: { ...shed, hotEnd: 'all-metal' }, set: { nozzle: 245 } },
      { machine: { ...shed, hotEnd: 'lined' }, set: { nozzle: 245 } },
    ],
  },
  'wet-roll': {
    bites: [
      { machine: greenhouse, filament: roll('pa', { openedOn: '2026-01-01', dryings: [] }) },
      { machine: greenhouse, filament: roll('pa', { openedOn: null, dryings: [] }) },
    ],
    silent: [
      { machine: greenhouse, filament: roll('pa') },
      { filament: roll('pla', { openedOn: null, dryings: [] }) },
    ],
  },
  'roll-too-light': {
    bites: [
      { filament: roll('pla', { rollWeight: 500, weightLeft: 500 }), part: { name: 'Hood', grams: 640 } },
      { filament: roll('pla', { rollWeight: 500, weightLeft: 500 }), part: { name: 'Hood', grams: 495 } },
    ],
    silent: [
      { filament: roll('pla', { rollWeight: 500, weightLeft: 500 }), part: { name: 'Hood', grams: 200 } },
      { filament: roll('pla', { weightLeft: null }), part: { name: 'Hood', grams: 640 } },
      {},
    ],
  },
}

describe.each(LINT_RULE_IDS)('%s', (rule) => {
  const { bites, silent } = CASES[rule]
  test.each(bites.map((s, i) => [i, s] as const))(
    'bites (%i), says why, and its own mend silences it',
    (_, s) => {
      const found = warningsIn(s).find((w) => w.rule === rule)
      expect(found).toBeDefined()
      const { text, why } = sayWarning(found!)
      for (const sentence of [text, why]) expect(sentence).toMatch(/^[A-Z0-9“].*\.$/)
      expect(text + why).not.toMatch(/undefined|NaN|null|\[object/)
      if (!found!.mend) return
      for (const k of keysOf(found!.mend)) expect([k, faultOf(k, found!.mend[k]!)]).toEqual([k, null])
      const mended = { ...pinsOf(s), ...hand(found!.mend) }
      expect(warningsIn(s, mended).map((w) => w.rule)).not.toContain(rule)
    },
  )
  test.each(silent.map((s, i) => [i, s] as const))('stays silent next to it (%i)', (_, s) => {
    expect(warningsIn(s).map((w) => w.rule)).not.toContain(rule)
  })
})

test('an acknowledgement holds for a value, not for ever: the fingerprint changes with it', () => {
  const fingerprint = (flowFirst: number) => warningsIn({ set: { flowFirst } })[0].fingerprint
  expect(fingerprint(120)).toBe(fingerprint(120))
  expect(fingerprint(120)).not.toBe(fingerprint(130))
})

test('the worst stands first', () => {
  const order = ['fault', 'caution', 'note']
  const all = warningsIn({ set: { flowFirst: 120, speedFloor: 5, travelSpeed: 80, skirtLoops: 0 } })
  const ranks = all.map((w) => order.indexOf(w.severity))
  expect(ranks.length).toBeGreaterThan(3)
  expect(ranks).toEqual([...ranks].sort())
})

// trade fact: a 640 g part against a 500 g roll wants a second one joined mid-print
test('a roll too light says by how much and how to go on', () => {
  const light = roll('pla', { rollWeight: 500, weightLeft: 500 })
  const found = warningsIn({ filament: light, part: { name: 'Hood', grams: 640 } }).find(
    (w) => w.rule === 'roll-too-light',
  )!
  expect(found).toMatchObject({ severity: 'fault', remedy: 'join-roll', mend: null })
  expect(sayWarning(found).text).toMatch(/640.*500/)
})

import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  FINDING_KINDS,
  findingContext,
  findingEvidence,
  findingsOf,
  type FindingContext,
  type FindingKind,
} from '../src/diagnosis'
import { readGcode } from '../src/gcode'
import { fullStep } from '../src/machine'
import { writePart } from '../src/planner'
import { deriveRecipe, printSettingsOf } from '../src/recipe'
import { Feature, readPath, type PathReading } from '../src/toolpath'
import { sayFinding } from '../src/words'

const machine = DEMO_MACHINES.shed
const filament = { ...demoFilaments('2026-01-01').terracotta, weightLeft: null }
const recipe = deriveRecipe({ machine, filament })
const text = writePart(machine, printSettingsOf(recipe), {
  shape: 'box',
  width: 30,
  depth: 20,
  height: 6,
  bore: 8,
  copies: 2,
})
const plain = readPath(readGcode(Uint8Array.from(text, (c) => c.charCodeAt(0))), {
  filamentDiameter: 1.75,
  density: 1.24,
  nozzleDiameter: 0.4,
  limits: machine.limits,
})
const context = findingContext({ machine, filament, recipe })
const layers = plain.layerCount
const middle = Math.floor(layers / 2)

/** How a reading differs from that of the plain part. */
type Turn = (r: PathReading, c: FindingContext) => void
const first =
  (part: Partial<NonNullable<PathReading['firstLayer']>>): Turn =>
  (r) => {
    Object.assign(r.firstLayer!, part)
  }
const feature =
  (f: Feature, part: Partial<PathReading['features'][number]>): Turn =>
  (r) => {
    Object.assign(r.features[f], part)
  }
const travel =
  (part: Partial<PathReading['travel']>): Turn =>
  (r) => {
    Object.assign(r.travel, part)
  }
const seam =
  (part: Partial<PathReading['seam']>): Turn =>
  (r) => {
    Object.assign(r.seam, part)
  }
const from =
  <K extends keyof PathReading['layers']>(column: K, layer: number, value: number): Turn =>
  (r) => {
    ;(r.layers[column] as number[]).fill(value, layer)
  }
const one =
  <K extends keyof PathReading['layers']>(column: K, layer: number, value: number): Turn =>
  (r) => {
    ;(r.layers[column] as number[])[layer] = value
  }
const all =
  (...turns: Turn[]): Turn =>
  (r, c) =>
    turns.forEach((t) => t(r, c))
const nothing: Turn = () => undefined
const outer = plain.features[Feature.Outer]
const inner = plain.features[Feature.Inner]
const even = all(from('outerAsked', 0, 40), (r) => void (r.rest.outerSpeed = 40))

/** Each finding: where it is made, and next to it where it is not. A kind that is missing here does not compile. */
const CASES: Record<FindingKind, { found: Turn[]; silent: Turn[] }> = {
  'first-fast': {
    found: [first({ speed: 45 }), all(even, first({ speed: 34 }))],
    silent: [nothing, all(even, first({ speed: 30 }))],
  },
  'first-calm': { found: [first({ speed: 30 })], silent: [first({ speed: 31 })] },
  'first-thin': {
    found: [
      first({ height: 0.12 }),
      (r, c) => {
        c.machine = { ...machine, bed: { ...machine.bed, residual: 0.15 } }
        r.firstLayer!.height = 0.28
      },
    ],
    silent: [
      first({ height: 0.16 }),
      (r, c) => {
        c.machine = { ...machine, bed: { ...machine.bed, residual: 0.05 } }
        r.firstLayer!.height = 0.12
      },
    ],
  },
  'first-narrow': { found: [first({ spacing: 0.3 })], silent: [nothing, first({ spacing: null })] },
  'first-wide': { found: [first({ spacing: 0.7 })], silent: [nothing, first({ spacing: null })] },
  'first-overfed': {
    found: [first({ flow: 107 })],
    silent: [first({ flow: 106 }), first({ flow: null })],
  },
  'first-underfed': {
    found: [first({ flow: 92 })],
    silent: [first({ flow: 93 }), first({ flow: null })],
  },
  'first-gaps': { found: [first({ gaps: 9 })], silent: [first({ gaps: 8 })] },
  'no-priming': { found: [(r) => void (r.primed = false)], silent: [nothing] },
  primed: { found: [nothing], silent: [(r) => void (r.primed = false)] },
  'contact-tiny': {
    found: [first({ contact: 20 }), all(first({ contact: 59 }), (r) => void (r.height = 16))],
    silent: [
      nothing,
      all(first({ contact: 20 }), (r) => void (r.base.brim = true)),
      all(first({ contact: 61 }), (r) => void (r.height = 15)),
    ],
  },
  'islands-quick': {
    found: [all(first({ islands: 5, smallestIsland: 40, speed: 20 }), from('outerSpeed', 0, 40))],
    silent: [
      all(first({ islands: 4, smallestIsland: 40, speed: 20 }), from('outerSpeed', 0, 40)),
      all(first({ islands: 5, smallestIsland: 200, speed: 20 }), from('outerSpeed', 0, 40)),
      all(first({ islands: 5, smallestIsland: 40, speed: 30 }), from('outerSpeed', 0, 40)),
    ],
  },
  'raft-there': { found: [(r) => void (r.base.raftLayers = 2)], silent: [nothing] },

  'fan-early': { found: [one('fan', 0, 0.5), one('fan', 1, 0.5)], silent: [nothing, one('fan', 2, 0.5)] },
  'fan-late': { found: [nothing], silent: [one('fan', 1, 0.5)] },
  'fan-steps': {
    found: [one('fan', middle, 0.2)],
    silent: [all(from('fan', 2, 1)), one('fan', middle, 0.8)],
  },
  'heat-steps': { found: [from('nozzle', middle, 190)], silent: [from('nozzle', 0, 210)] },
  'layers-too-quick': {
    found: [all(from('seconds', 0, 60), one('seconds', middle, 0.5))],
    silent: [from('seconds', 0, 60)],
  },
  'layers-cool': {
    found: [from('seconds', 0, 60)],
    silent: [all(from('seconds', 0, 60), one('seconds', middle, 1))],
  },

  'slow-down-swings': {
    found: [all(even, from('outerAsked', layers - 6, 20))],
    silent: [even, all(even, from('outerAsked', layers - 6, 33))],
  },
  'speed-even': { found: [even], silent: [all(even, one('outerAsked', middle, 30))] },
  'outer-fastest': {
    found: [all(feature(Feature.Outer, { asked: 60 }), feature(Feature.Inner, { asked: 50 }))],
    silent: [all(feature(Feature.Outer, { asked: 50 }), feature(Feature.Inner, { asked: 50 }))],
  },
  'outer-over-card': {
    found: [(r) => void (r.rest.outerSpeed = 90)],
    silent: [(r) => void (r.rest.outerSpeed = 50), (r) => void (r.rest.outerSpeed = null)],
  },
  'speeds-apart': {
    found: [all(feature(Feature.Outer, { asked: 20 }), feature(Feature.Inner, { asked: 50, length: 100 }))],
    silent: [
      nothing,
      all(
        feature(Feature.Outer, { asked: 20 }),
        feature(Feature.Inner, { asked: 50, length: 100 }),
        (r) => void (r.pressure = 0.04),
      ),
    ],
  },
  unreachable: {
    found: [feature(Feature.Outer, { asked: 100, reached: 60 })],
    silent: [feature(Feature.Outer, { asked: 100, reached: 80 })],
  },
  'bridges-quick': {
    found: [feature(Feature.Bridge, { length: 30, asked: 1.3 * outer.asked })],
    silent: [nothing, feature(Feature.Bridge, { length: 30, asked: outer.asked })],
  },

  'over-melt-cap': {
    found: [(r, c) => void (c.meltCap = 0.9 * r.meltPeak)],
    silent: [(r, c) => void (c.meltCap = 1.01 * r.meltPeak)],
  },
  'under-melt-cap': {
    found: [(r, c) => void (c.meltCap = 1.3 * r.meltPeak)],
    silent: [(r, c) => void (c.meltCap = 1.01 * r.meltPeak)],
  },
  'outer-fed-off': {
    found: [
      feature(Feature.Outer, { width: 1.1 * inner.width }),
      feature(Feature.Outer, { width: 0.8 * inner.width }),
    ],
    silent: [nothing, feature(Feature.Outer, { width: 1.05 * inner.width })],
  },
  'walls-thin': {
    found: [feature(Feature.Outer, { width: 0.34 })],
    silent: [feature(Feature.Outer, { width: 0.37 })],
  },
  'more-than-roll': {
    found: [(r, c) => void (c.filament = { ...filament, weightLeft: r.filament.mass / 2 })],
    silent: [nothing, (r, c) => void (c.filament = { ...filament, weightLeft: r.filament.mass * 2 })],
  },

  'open-air-drag': {
    found: [travel({ openCount: 10, openUnretracted: 4, longestUnretracted: 20, longestLayer: 3 })],
    silent: [nothing, travel({ openCount: 10, openUnretracted: 4, longestUnretracted: 2 })],
  },
  'open-air-clean': { found: [nothing], silent: [travel({ openUnretracted: 1 }), travel({ openCount: 2 })] },
  'travel-slow': {
    found: [travel({ speed: 80 })],
    silent: [
      travel({ speed: 100 }),
      travel({ speed: 80, openCount: 0 }),
      (r, c) => {
        r.travel.speed = 80
        c.machine = { ...machine, limits: { ...machine.limits, speed: 110 } }
      },
    ],
  },
  'over-pulled': {
    found: [(r) => void (r.ledger.worst = { at: 100, length: 4, passes: 12, layer: 3 })],
    silent: [(r) => void (r.ledger.worst = { at: 100, length: 4, passes: 10, layer: 3 })],
  },
  'pulls-few': {
    found: [(r) => void (r.retraction.worstPasses = 4)],
    silent: [(r) => void (r.retraction.worstPasses = 5), (r) => void (r.retraction.kind = 'none')],
  },
  'restart-off': {
    found: [(r) => void (r.retraction.restartExtra = 0.1), (r) => void (r.retraction.restartExtra = -0.1)],
    silent: [(r) => void (r.retraction.restartExtra = 0.04), (r) => void (r.retraction.restartExtra = null)],
  },

  'seam-stacked': {
    found: [
      seam({ stacked: 0.9, outwardCorner: 0.9 }),
      seam({ stacked: 0.9, outwardCorner: 0, inwardCorner: 0 }),
    ],
    silent: [seam({ stacked: 0.7 }), seam({ stacked: null })],
  },
  'seam-scattered': {
    found: [
      (r) => {
        r.seam.stacked = 0.1
        r.seam.objects[0].resultantLength = 0.2
      },
    ],
    silent: [seam({ stacked: 0.5 }), nothing],
  },
  'ends-untreated': {
    found: [all(seam({ early: 0, wipe: 0 }), (r) => void (r.pressure = null))],
    silent: [
      seam({ early: 0, wipe: 0.4 }),
      all(seam({ early: 0, wipe: 0 }), (r) => void (r.pressure = 0.04)),
    ],
  },
  'ends-treated': {
    found: [seam({ early: 0.3, wipe: 0 }), seam({ early: 0, wipe: 0.3 })],
    silent: [seam({ early: 0.1, wipe: 0.1 })],
  },
  'early-stop-long': { found: [seam({ early: 1.3 })], silent: [seam({ early: 1.1 })] },

  'stops-over-part': {
    found: [(r) => void (r.stops = [{ layer: 4, z: 1, seconds: 3, overPart: true }])],
    silent: [nothing, (r) => void (r.stops = [{ layer: 4, z: 1, seconds: 3, overPart: false }])],
  },
  'no-stops-over-part': {
    found: [nothing],
    silent: [
      (r) => void (r.stops = [{ layer: 4, z: 1, seconds: 3, overPart: true }]),
      (r) => void (r.style.pauses = 1),
    ],
  },
  'pauses-there': { found: [(r) => void (r.style.pauses = 2)], silent: [nothing] },
  'off-full-step': {
    found: [(r) => void (r.layerHeight = 5.5 * fullStep(machine))],
    silent: [(r) => void (r.layerHeight = 5 * fullStep(machine)), (r) => void (r.layerHeight = null)],
  },
  'on-full-step': {
    found: [(r) => void (r.layerHeight = 5 * fullStep(machine))],
    silent: [(r) => void (r.layerHeight = 5.5 * fullStep(machine))],
  },
  'heights-vary': {
    found: [
      (r) => {
        r.objects = r.objects.slice(0, 1)
        r.layers.height[middle] = 0.3
      },
    ],
    silent: [(r) => void (r.objects = r.objects.slice(0, 1)), one('height', middle, 0.3)],
  },
  'steep-overhang': { found: [one('overhang', middle, 20)], silent: [from('overhang', 0, 10)] },
  'support-there': { found: [(r) => void (r.base.support = true)], silent: [nothing] },
}

const turned = (turn: Turn) => {
  const r = structuredClone(plain)
  const c = { ...context }
  turn(r, c)
  return findingsOf(r, c)
}

describe.each(FINDING_KINDS)('%s', (kind) => {
  const { found, silent } = CASES[kind]
  test.each(found.map((t, i) => [i, t] as const))(
    'is found (%i), and says what it is and why it matters',
    (_, t) => {
      const finding = turned(t).find((f) => f.kind === kind)
      expect(finding).toBeDefined()
      const { text: what, why } = sayFinding(finding!)
      for (const sentence of [what, why]) expect(sentence).toMatch(/^[A-Z0-9].*\.$/)
      expect(what + why).not.toMatch(/undefined|NaN|null|\[object/)
      if (finding!.from !== null) expect(finding!.to!).toBeGreaterThanOrEqual(finding!.from)
      // what it moves, it moves the way it says
      for (const e of findingEvidence([finding!])) {
        if (finding!.raises.includes(e.suspect)) expect(e.decibans).toBeGreaterThan(0)
        else expect(e.decibans).toBeLessThan(0)
      }
    },
  )
  test.each(silent.map((t, i) => [i, t] as const))('is not found next to it (%i)', (_, t) => {
    expect(turned(t).map((f) => f.kind)).not.toContain(kind)
  })
})

test('the plain part has nothing but good findings, and the worst always stands first', () => {
  expect(
    turned(nothing)
      .filter((f) => f.severity === 'fault')
      .map((f) => f.kind),
  ).toEqual([])
  const order = ['fault', 'caution', 'note', 'good']
  const ranks = turned(all(first({ speed: 60, gaps: 20 }), travel({ speed: 60 }))).map((f) =>
    order.indexOf(f.severity),
  )
  expect(ranks).toEqual([...ranks].sort())
})

test('no finding speaks for and against the same suspect', () => {
  for (const kind of FINDING_KINDS)
    for (const t of CASES[kind].found) {
      const f = turned(t).find((x) => x.kind === kind)!
      expect(f.raises.filter((s) => f.clears.includes(s))).toEqual([])
    }
})

import fc from 'fast-check'
import { readGcode } from '../src/gcode'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  USUAL_INSTRUMENT,
  causesOfBands,
  FACES,
  readingUncertainty,
  takeApart,
  type SizeReading,
} from '../src/measurement'
import { writePart } from '../src/planner'
import { deriveRecipe, layOver, printSettingsOf } from '../src/recipe'
import { said } from '../src/quantity'
import { anyFilament, anyMachine } from './lib/pairs'
import { tries } from './lib/property'

// Single figures in the code whose change nothing else would notice. Each was found by changing it on purpose
// (`npm run mutate`) and seeing every other test pass.

const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const hand = (set: Parameters<typeof layOver>[1]) => layOver({}, set, { source: 'hand', reason: said('') })

test('while the bed warms the nozzle waits at 150 °C at most, and never hotter than the print itself', () => {
  fc.assert(
    fc.property(anyMachine, anyFilament, fc.constantFrom(null, 120, 140), (machine, filament, cool) => {
      const pins = cool ? hand({ nozzleFirst: cool, nozzle: cool }) : {}
      const settings = printSettingsOf(deriveRecipe({ machine, filament, pins }))
      const lines = writePart(machine, settings, { shape: 'box', width: 6, height: 1 }).split('\n')
      const waits = lines.findIndex((line) => line.startsWith('M190'))
      const before = lines.slice(0, waits).filter((line) => /^M10[49]/.test(line))
      expect(before).toHaveLength(1)
      const standby = Number(/S([\d.]+)/.exec(before[0])![1])
      const print = Math.min(machine.limits.nozzle, settings.nozzleFirst)
      expect(standby).toBe(Math.min(150, Math.round(print)))
    }),
    tries(30),
  )
})

describe('sizes', () => {
  const size = (id: string, nominal: number, kind: SizeReading['kind'], measures: number[]): SizeReading => ({
    id,
    name: id,
    axis: 'x',
    kind,
    place: 'above',
    round: false,
    nominal,
    measures,
  })
  /** Seven outsides that are 0.2 mm too big, as exact as the scale reads. */
  const outsides = (grown = 0.2) =>
    [5, 10, 20, 40, 60, 80, 100].map((l) => size(`x${l}`, l, 'outside', [l + grown]))

  test('of two walls the mean is the flow’s: 0.06 and 0.12 mm too thick leave 0.11 mm to the contour', () => {
    const walls = [size('w1', 0.44, 'wall', [0.5]), size('w2', 0.88, 'wall', [1.0])]
    const { corrections } = takeApart([...outsides(), ...walls], { wall: 0.44, instrument: USUAL_INSTRUMENT })
    const contour = corrections.find(({ key }) => key === 'contourOffset')!
    // an offset moves one edge, an outside has two
    expect(contour.value).toBeCloseTo(-(0.2 - 0.09) / 2, 3)
  })

  test('a reading is a slip from four times the usual scatter on, and not below', () => {
    const usual = Math.hypot(FACES, readingUncertainty(USUAL_INSTRUMENT))
    const marked = (off: number) => {
      const many = [4, 8, 12, 20, 30, 40, 50, 60, 70, 80, 90, 100].map((l) =>
        size(`x${l}`, l, 'outside', [l]),
      )
      many[6].measures[0] += off
      return takeApart(many, { instrument: USUAL_INSTRUMENT })
        .rows.filter((r) => r.outlier)
        .map((r) => r.id)
    }
    // the fit gives way by a tenth of it
    expect(marked(3.6 * usual)).toEqual([])
    expect(marked(6 * usual)).toEqual(['x50'])
    expect(marked(-6 * usual)).toEqual(['x50'])
  })
})

describe('a program read', () => {
  const moves = (text: string) => {
    const p = readGcode(bytes(text))
    return Array.from({ length: p.count }, (_, i) => ({ kind: p.kind[i], e: p.e[i], x: p.x[i], y: p.y[i] }))
  }
  /** What was pulled back and pushed on again, in order, mm. */
  const pulls = (text: string) =>
    moves(text)
      .filter(({ e }) => e !== 0)
      .map(({ e }) => Math.round(e * 1e4) / 1e4)

  test('the controller’s own retraction is as long as it was told, in millimetres and inches, once until it is undone', () => {
    const words = 'G10\nG10\nG0 X30 F6000\nG11\nG11\n'
    expect(pulls(`G28\nM83\nM207 S3.2\nG0 X10 Y10 Z0.2 F6000\n${words}`)).toEqual([-3.2, 3.2])
    expect(pulls(`G28\nM83\nG20\nM207 S0.1\nG0 X1 Y1 Z0.01 F600\n${words}`)).toEqual([-2.54, 2.54])
    // never told: it is there, and its length is not known
    const p = readGcode(bytes(`G28\nM83\nG0 X10 Y10 Z0.2 F6000\n${words}`))
    expect([p.style.firmwareRetraction, p.style.firmwareRetractLength]).toEqual([true, null])
  })

  test('an arc by its radius is the short way round, by a radius below nought the long one, to the side it turns to', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 2, max: 40, noNaN: true }),
        fc.double({ min: 0.2, max: 2.9, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.boolean(),
        fc.boolean(),
        (radius, sweep, from, clockwise, long) => {
          const way = clockwise ? -1 : 1
          const turn = long ? 2 * Math.PI - sweep : sweep
          const [cx, cy] = [100, 100]
          const at = (a: number) => [cx + radius * Math.cos(a), cy + radius * Math.sin(a)] as const
          const [x0, y0] = at(from)
          const [x1, y1] = at(from + way * turn)
          const f = (v: number) => v.toFixed(6)
          const points = moves(
            `G28\nM83\nG0 X${f(x0)} Y${f(y0)} Z0.2 F6000\n` +
              `${clockwise ? 'G2' : 'G3'} X${f(x1)} Y${f(y1)} R${f(long ? -radius : radius)} E1 F1800\n`,
          ).filter(({ e }) => e > 0)
          // plain geometry: every point lies on the circle, and the way is r θ long
          for (const { x, y } of points) expect(Math.hypot(x - cx, y - cy)).toBeCloseTo(radius, 2)
          let length = Math.hypot(points[0].x - x0, points[0].y - y0)
          for (let i = 1; i < points.length; i++)
            length += Math.hypot(points[i].x - points[i - 1].x, points[i].y - points[i - 1].y)
          expect(length / (radius * turn)).toBeCloseTo(1, 2)
        },
      ),
      tries(60),
    )
  })
})

test('a gear that turns nearly a whole number of times a layer shows as a slow wave', () => {
  const wave = (turns: number, height = 0.2) =>
    causesOfBands(
      { value: 50, u: 0.1 },
      {
        machine: DEMO_MACHINES.shed,
        layerHeight: height,
        layerSeconds: null,
        layerFed: 22.7 * turns,
        gear: 22.7,
        nozzlePeriod: null,
        bedPeriod: null,
      },
    ).find(({ cause }) => cause === 'drive-gear')?.period
  // plain geometry: 1.92 turns a layer are 0.08 short of two, which add up to one in 12.5 layers
  expect(wave(1.92)).toBeCloseTo(2.5, 9)
  expect(wave(2.08)).toBeCloseTo(2.5, 9)
  expect(wave(0.4)).toBeCloseTo(0.5, 9)
  expect(wave(1.92, 0.3)).toBeCloseTo(3.75, 9)
  // whole turns leave no wave at all
  expect(wave(2)).toBeUndefined()
})

test('however thick the layers, a part is closed by three layers at the base and three at the top at least', () => {
  const machine = { ...DEMO_MACHINES.shed, nozzle: { ...DEMO_MACHINES.shed.nozzle, diameter: 1 } }
  const filament = demoFilaments('2026-01-01').fern
  const closed = (layerHeight: number) => {
    const { bottomLayers, topLayers } = deriveRecipe({ machine, filament, pins: hand({ layerHeight }) })
    return [bottomLayers.value, topLayers.value]
  }
  // 0.6 mm below, 0.8 mm above (common practice, no source), three of each at least
  expect(closed(0.1)).toEqual([6, 8])
  expect(closed(0.2)).toEqual([3, 4])
  expect(closed(0.4)).toEqual([3, 3])
  expect(closed(0.6)).toEqual([3, 3])
})

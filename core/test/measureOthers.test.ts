import FFT from 'fft.js'
import fc from 'fast-check'
import { DEMO_MACHINES } from '../src/demo'
import {
  causesOfBands,
  causesOfRibs,
  evaluate,
  diameterOutcome,
  dryingOutcome,
  feedOutcome,
  heaterOutcome,
  periodOf,
  powerAt,
  profileAlong,
  purgeOutcome,
  ripplesOutcome,
  rollOutcome,
  spacingInterval,
  spacingOfHeights,
  stepBeat,
  straighten,
  threadOutcome,
  typedPlace,
  type GreyPicture,
  type Pixel,
} from '../src/measurement'
import type { LayerTable } from '../src/toolpath'
import { normalStream, randomStream } from '../src/statistics'
import { say } from '../src/words'

const machine = DEMO_MACHINES.shed
const roll = { diameter: 1.75, diameterU: 0.02, density: 1.24, family: 'pla' }

describe('feed and filament', () => {
  test('100 mm asked for, 97 fed: steps times 100 / 97, with the mark’s uncertainty; repeats that are enough', () => {
    const out = feedOutcome({ kind: 'feed', asked: 100, fed: [97.1, 96.9, 97.0, 97.05], steps: 93 })
    expect(out.factor!.value).toBeCloseTo(100 / 97.0125, 6)
    expect(out.kind).toBe('found')
    // JCGM 100, by hand: two marks of ± 0.3 and a ruler of ± 0.2 mm as rectangles √(2 · 0.09 + 0.04) / √3 = 0.271 mm; four
    // repeats of s = 0.085 backed by two of 0.4: √((3 · 0.0073 + 2 · 0.16) / 5) / 2 = 0.131 mm; twice 0.301 on 97 mm is 0.64 %
    expect(out.factor!.expanded).toBeGreaterThan(0.006)
    expect(out.factor!.expanded).toBeLessThan(0.0068)
    expect(out.reasons.map(say).join(' ')).toMatch(/95\.8\d steps\/mm/)
    expect(feedOutcome({ kind: 'feed', asked: 100, fed: [99.9, 100.2], steps: null }).kind).toBe('flat')
  })
  test.each([1, 2, 4])(
    'a right feed read %i times by hands, marks and rulers that are off: ± holds, and it is not called off',
    (count) => {
      const random = randomStream(40 + count)
      const normal = normalStream(random)
      const within = (half: number) => half * (2 * random() - 1)
      let [held, off] = [0, 0]
      const runs = 1000
      for (let k = 0; k < runs; k++) {
        const ruler = within(0.2)
        const marks = within(0.3) + within(0.3)
        const fed = Array.from({ length: count }, () => 100 + ruler + marks + 0.5 * normal())
        const out = feedOutcome({ kind: 'feed', asked: 100, fed, steps: null })
        held += Number(Math.abs(out.value! - 1) <= out.plusMinus!)
        off += Number(out.kind === 'found')
      }
      expect(held / runs).toBeGreaterThanOrEqual(0.92)
      expect(off / runs).toBeLessThanOrEqual(count === 1 ? 0 : 0.07)
    },
  )
  test.each([1, 3])(
    'a right feed purged %i times from a roll as rolls are: the share holds the truth, and it is not called off',
    (count) => {
      const random = randomStream(60 + count)
      const normal = normalStream(random)
      const within = (half: number) => half * (2 * random() - 1)
      let [held, off] = [0, 0]
      const runs = 1000
      for (let k = 0; k < runs; k++) {
        const heavy = (1 + within(0.03)) * (1 + within(0.005)) * ((1.75 + within(0.035)) / 1.75) ** 2
        const grams = Array.from({ length: count }, () =>
          Number((0.894747 * heavy * (1 + 0.01 * normal())).toFixed(2)),
        )
        const out = purgeOutcome({ kind: 'purge', fed: 300, grams, resolution: 0.01 }, roll)
        held += Number(Math.abs(out.value! - 1) <= out.plusMinus!)
        off += Number(out.kind === 'found')
      }
      expect(held / runs).toBeGreaterThanOrEqual(0.92)
      expect(off / runs).toBeLessThanOrEqual(count === 1 ? 0 : 0.07)
    },
  )
  test('one reading that is far off asks for another and corrects nothing', () => {
    const one = feedOutcome({ kind: 'feed', asked: 100, fed: [90], steps: 93 })
    expect(one.kind).toBe('flat')
    expect(one.reasons.map((r) => r.code)).toContain('read-once-more')
    expect(feedOutcome({ kind: 'feed', asked: 100, fed: [90, 90.2], steps: 93 }).kind).toBe('found')
  })
  test('a purge of 100 mm weighs 0.298 g of PLA; drying, a weighed roll, a thread', () => {
    // 100 mm × 2.405 mm² × 1.24 g/cm³, plain geometry
    const purge = purgeOutcome(
      { kind: 'purge', fed: 100, grams: [0.298, 0.299, 0.298], resolution: 0.001 },
      roll,
    )
    expect(purge.value).toBeCloseTo(1, 2)
    expect(purge.density!.value).toBeCloseTo(1.24, 1)
    const wet = dryingOutcome({ kind: 'drying', before: 1195, after: 1190, spool: 195, resolution: 1 })
    expect(wet.value).toBeCloseTo(0.5, 6)
    expect(wet.reasons.map((r) => r.code)).toContain('was-wet')
    expect(
      dryingOutcome({ kind: 'drying', before: 1190, after: 1195, spool: 195, resolution: 1 }).reasons.map(
        (r) => r.code,
      ),
    ).toContain('gained-weight')
    // 1 kg of 1.24 g/cm³ at 1.75 mm is 335.3 m
    expect(rollOutcome({ kind: 'roll', gross: 1200, spool: 200 }, roll).value).toBeCloseTo(335.3, 1)
    expect(threadOutcome({ kind: 'thread', diameters: [0.45, 0.44, 0.45], resolution: 0.01 }, 0.4).kind).toBe(
      'flat',
    )
    expect(
      threadOutcome({ kind: 'thread', diameters: [0.62, 0.63, 0.61], resolution: 0.01 }, 0.4).reasons.map(
        (r) => r.code,
      ),
    ).toContain('bore-worn')
  })
  test('diameters: the round filament of the same area, how even and how round, and what it does to the feed', () => {
    const places = [
      { a: 1.7, b: 1.74 },
      { a: 1.71, b: 1.73 },
      { a: 1.72, b: null },
      { a: 1.7, b: 1.8 },
    ]
    const out = diameterOutcome({ kind: 'diameter', places, resolution: 0.01 }, 1.75)
    // by hand: root of the mean of the areas' diameters squared
    const round = [1.7 * 1.74, 1.71 * 1.73, 1.72 * 1.72, 1.7 * 1.8]
    expect(out.value).toBeCloseTo(Math.sqrt(round.reduce((a, b) => a + b) / 4), 9)
    expect(out.reasons.map((r) => r.code)).toContain('diameter-oval')
    const even = diameterOutcome(
      { kind: 'diameter', places: [1.75, 1.76, 1.75, 1.74].map((a) => ({ a, b: null })), resolution: 0.01 },
      1.75,
    )
    expect(even.kind).toBe('flat')
    // one place says little of a roll
    const one = diameterOutcome({ kind: 'diameter', places: [{ a: 1.73, b: null }], resolution: 0.01 }, 1.75)
    expect([one.kind, one.plusMinus! > 0.02]).toEqual(['flat', true])
    expect(diameterOutcome({ kind: 'diameter', places: [], resolution: 0.01 }, 1.75).kind).toBe('few')
  })
  test.each([
    ['1.75', { a: 1.75, b: null }],
    ['1,74/1,76', { a: 1.74, b: 1.76 }],
    ['1.7/', null],
    ['1.7/1.8/1.9', null],
    ['wide', null],
    ['-1.75', null],
    ['', null],
  ])('a place typed as “%s”', (text, place) => expect(typedPlace(text)).toEqual(place))
  test('a heater that swings, with its period; one that holds', () => {
    const swing = Array.from({ length: 40 }, (_, i) => 60 + 3 * Math.sin((2 * Math.PI * i * 2) / 25))
    const out = heaterOutcome({ kind: 'heater', of: 'bed', temperatures: swing, interval: 2 })
    expect(out.period).toBeCloseTo(25, 0)
    expect(out.kind).toBe('found')
    const steady = swing.map((v) => 60 + (v - 60) / 10)
    expect(heaterOutcome({ kind: 'heater', of: 'bed', temperatures: steady, interval: 2 }).kind).toBe('flat')
  })
})

describe('spacings', () => {
  test('heights on a comb, some missing, are found within two percent; strewn ones are not', () => {
    const random = randomStream(4)
    const normal = normalStream(random)
    let found = 0
    let false_ = 0
    for (let k = 0; k < 60; k++) {
      const spacing = 1.5 + 7 * random()
      const comb = [0, 1, 2, 4, 5, 7, 8, 9].map((i) => 3 + i * spacing + 0.012 * spacing * normal())
      const s = spacingOfHeights(comb)!
      found += Number(Math.abs(s.value / spacing - 1) < 0.02 && s.p < 0.05)
      const strewn = Array.from({ length: 8 }, () => 60 * random())
      false_ += Number((spacingOfHeights(strewn)?.p ?? 1) < 0.05)
    }
    expect(found).toBeGreaterThanOrEqual(57)
    expect(false_).toBeLessThanOrEqual(6)
    expect(spacingOfHeights([1, 2])).toBeNull()
    expect(spacingOfHeights([5, 5, 5])).toBeNull()
  })
  test('the transform is that of a general library', () => {
    const n = 64
    const normal = normalStream(randomStream(2))
    const v = Array.from({ length: n }, () => normal())
    const hann = v.map((x, i) => x * (0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / n)))
    const f = new FFT(n)
    const out = f.createComplexArray() as number[]
    f.realTransform(out, hann)
    for (let k = 1; k < n / 2; k++)
      expect(powerAt(v, k / n)).toBeCloseTo((out[2 * k] ** 2 + out[2 * k + 1] ** 2) / n, 8)
  })
})

/** A picture of a face with bands, seen at a slant in uneven light: made by geometry, then kept in coarse steps. */
function picture(period: number, seed: number, { noise = 12, contrast = 40 } = {}) {
  const random = randomStream(seed)
  const normal = normalStream(random)
  const width = 320
  const height = 420
  // corners of a 60 × 80 mm face
  const j = () => (random() - 0.5) * 36
  const corners: [Pixel, Pixel, Pixel, Pixel] = [
    { x: 60 + j(), y: 50 + j() },
    { x: 262 + j(), y: 56 + j() },
    { x: 250 + j(), y: 372 + j() },
    { x: 66 + j(), y: 366 + j() },
  ]
  const map = straighten(corners, 60, 80)!
  const grey = new Uint8ClampedArray(width * height)
  const phase = random() * 6
  // a strip about the line that is looked along
  for (let y = 0; y < height; y++)
    for (let x = 125; x < 200; x++) {
      const p = map({ x, y })
      const light = 120 + 30 * Math.sin(x / 170) + 25 * (y / height)
      const band = contrast * 0.5 * Math.sin((2 * Math.PI * p.y) / period + phase)
      // stored in steps, as a compressed picture is
      grey[y * width + x] = Math.round((light + band + noise * normal()) / 6) * 6
    }
  const on = (u: number, v: number): Pixel => ({
    x:
      corners[0].x * (1 - u) * (1 - v) +
      corners[1].x * u * (1 - v) +
      corners[2].x * u * v +
      corners[3].x * (1 - u) * v,
    y:
      corners[0].y * (1 - u) * (1 - v) +
      corners[1].y * u * (1 - v) +
      corners[2].y * u * v +
      corners[3].y * (1 - u) * v,
  })
  return {
    picture: { width, height, grey } satisfies GreyPicture,
    map,
    from: on(0.5, 0.06),
    to: on(0.5, 0.94),
  }
}

describe('bands on a photo', () => {
  test('known spacings are found within two percent, down to four pixels a period', () => {
    const wrong: string[] = []
    let k = 0
    // about 4 pixels to a millimetre
    for (const period of [1.05, 1.5, 2, 3.2, 5, 8, 12])
      for (let i = 0; i < 6; i++) {
        const { picture: p, map, from, to } = picture(period, 100 + k++)
        const { profile, step } = profileAlong(p, from, to, 14, map)
        const s = periodOf(profile)
        const value = (s?.value ?? NaN) * step
        if (!(Math.abs(value / period - 1) < 0.02) || s!.p > 0.05)
          wrong.push(`${period}: ${value.toFixed(3)} p ${s?.p.toFixed(3)}`)
      }
    expect(wrong.length).toBeLessThanOrEqual(2)
  })
  test('the interval of a period holds it, also under noise and bands that no fit here is made for', () => {
    const random = randomStream(20261202)
    const normal = normalStream(random)
    const kinds = ['white', 'coloured', 'two tones', 'growing on a slope', 'wandering'] as const
    for (const kind of kinds) {
      let found = 0
      let held = 0
      for (let k = 0; k < 150; k++) {
        const length = 120 + Math.floor(600 * random())
        const period = length / (6 + 30 * random())
        if (period < 4) continue
        let slow = 0
        let phase = 2 * Math.PI * random()
        const profile = Array.from({ length }, (_, i) => {
          slow = 0.8 * slow + 0.6 * normal()
          if (kind === 'wandering') phase += (0.1 * normal()) / Math.sqrt(period)
          const turn = (2 * Math.PI * i) / period + phase
          const band =
            kind === 'two tones'
              ? 0.8 * Math.sin(turn) + 0.5 * Math.sin(2 * turn + 1)
              : kind === 'growing on a slope'
                ? Math.sin(turn) * (0.5 + i / length) + (2 * i) / length
                : Math.sin(turn)
          return band + 0.8 * (kind === 'coloured' ? slow : normal())
        })
        const s = periodOf(profile)
        if (!s || s.p > 0.05 || Math.abs(s.value / period - 1) > 0.1) continue
        found++
        if (Math.abs(s.value - period) <= spacingInterval(s)) held++
      }
      expect(found).toBeGreaterThan(100)
      expect(held / found).toBeGreaterThan(kind === 'wandering' ? 0.68 : 0.88)
    }
  })
  test('noise alone gives no period in 95 of 100', () => {
    let false_ = 0
    for (let k = 0; k < 80; k++) {
      const { picture: p, map, from, to } = picture(5, 900 + k, { contrast: 0 })
      const { profile } = profileAlong(p, from, to, 14, map)
      false_ += Number((periodOf(profile)?.p ?? 1) < 0.05)
    }
    expect(false_).toBeLessThanOrEqual(7)
  })
  test('a straightened rectangle has its corners where they belong; three in a line have none', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -20, max: 20 }), { minLength: 8, maxLength: 8 }), (d) => {
        const corners: [Pixel, Pixel, Pixel, Pixel] = [
          { x: 50 + d[0], y: 50 + d[1] },
          { x: 250 + d[2], y: 50 + d[3] },
          { x: 250 + d[4], y: 200 + d[5] },
          { x: 50 + d[6], y: 200 + d[7] },
        ]
        const map = straighten(corners, 40, 30)!
        const wanted = [
          [0, 0],
          [40, 0],
          [40, 30],
          [0, 30],
        ]
        corners.forEach((c, i) => {
          expect(map(c).x).toBeCloseTo(wanted[i][0], 6)
          expect(map(c).y).toBeCloseTo(wanted[i][1], 6)
        })
      }),
    )
    const line: [Pixel, Pixel, Pixel, Pixel] = [
      { x: 0, y: 0 },
      { x: 10, y: 0 },
      { x: 20, y: 0 },
      { x: 0, y: 10 },
    ]
    const map = straighten(line, 10, 10)
    expect(map === null || !Number.isFinite(map({ x: 10, y: 0 }).x)).toBe(true)
  })
})

describe('causes', () => {
  const context = {
    machine,
    layerHeight: 0.2,
    layerSeconds: 24,
    layerFed: 9.1,
    gear: 22.7,
    nozzlePeriod: null,
    bedPeriod: 190,
  }
  test('a screw’s lead, a gear’s turn, a bed’s cycle: each its own; none when none fits', () => {
    const first = (value: number, u = 0.03) => causesOfBands({ value, u }, context)[0]
    expect(first(8.02)).toMatchObject({ cause: 'screw-lead', fits: true })
    // one turn of the gear in 22.7 / 9.1 = 2.49 layers: a wave of 0.2 / |0.4009 − 0| mm
    expect(first(0.2 / (9.1 / 22.7))).toMatchObject({ cause: 'drive-gear', fits: true })
    // 190 s at 24 s a layer: 7.92 layers
    expect(first((0.2 * 190) / 24)).toMatchObject({ cause: 'bed-heater', fits: true })
    expect(causesOfBands({ value: 3.1, u: 0.02 }, context).some((c) => c.fits)).toBe(false)
  })
  test('ribs along a wall: a tooth of the belt, a turn of the pulley', () => {
    const at = (value: number) =>
      causesOfRibs({ value, u: 0.01 }, machine)
        .filter((c) => c.fits)
        .map((c) => c.cause)
    // plain geometry: 2 mm pitch, 20 teeth, 40 mm a turn
    expect([at(2.01), at(40.2), at(5)]).toEqual([['belt-tooth'], ['pulley-turn'], []])
    const ribs = {
      kind: 'bands' as const,
      heights: [1, 3, 5.02, 7, 9, 11, 13.01],
      spacing: null,
      along: 'wall' as const,
    }
    const { outcome } = evaluate(ribs, { machine, filament: null })
    expect(outcome.reasons.map(say).join(' ')).toMatch(/One tooth of the belt fits/)
  })
  test('layers that miss the full step come together with it again', () => {
    // 8 mm lead, 200 steps: 0.04 mm; 0.21 is 5.25 steps, on a step again after four layers
    expect(stepBeat(0.21, machine)).toBeCloseTo(0.84, 6)
    expect(stepBeat(0.2, machine)).toBeNull()
  })
})

test('ripples: the frame keeps its frequency, a belt its spacing, two readings alike tell neither', () => {
  const frame = [40, 80, 120].map((speed) => ({ speed, spacing: (speed / 38) * 1.01, height: 0.05 }))
  const swings = ripplesOutcome(frame, 0.02, 2)
  expect(swings).toMatchObject({ kind: 'frame' })
  expect(swings.frequency).toBeCloseTo(38, 0)
  // a/ω² = 0.02 mm at 38 Hz: 1140 mm/s²
  expect(swings.acceleration!).toBeCloseTo(0.02 * (2 * Math.PI * 37.6) ** 2, -2)
  const belt = [40, 80, 120].map((speed) => ({ speed, spacing: 2.01, height: null }))
  const toothed = ripplesOutcome(belt, 0.02, 2)
  expect(toothed.kind).toBe('belt')
  expect(toothed.reasons.map(say).join(' ')).toMatch(/belt’s teeth/)
  expect(ripplesOutcome([frame[0], frame[0]], 0.02, 2).kind).toBe('few')
})

test('bands where a path file’s layers take another time are told so; where they do not, nothing is made of it', () => {
  const count = 150
  // a shelf of quick layers at 8 and 20 mm
  const quick = (z: number) => (z > 8 && z < 9) || (z > 20 && z < 21)
  const z = Array.from({ length: count }, (_, i) => Number((0.2 * (i + 1)).toFixed(3)))
  const known = z.map(() => null)
  const zeros = z.map(() => 0)
  const layers: LayerTable = {
    z,
    height: z.map(() => 0.2),
    seconds: z.map((v, i) => (quick(v) ? 6 : 18 + 0.2 * (i % 3))),
    fan: z.map(() => 1),
    nozzle: known,
    bed: known,
    outerSpeed: known,
    outerAsked: known,
    meltPeak: zeros,
    meltMean: zeros,
    width: known,
    fed: z.map(() => 40),
    retractions: zeros,
    openAir: zeros,
    stop: zeros,
    supported: z.map(() => 100),
    overhang: zeros,
    spans: z.map(() => []),
  }
  const at = (heights: number[], along?: 'wall') => {
    const out = evaluate(
      { kind: 'bands', heights, spacing: null, along },
      { machine, filament: null, layers },
    )
    return out.of === 'bands' ? out.outcome : null
  }
  expect(at([8.5, 20.5])).toMatchObject({ kind: 'found', layerTimes: { inside: 6 } })
  expect(at([4.1, 14.2])!.layerTimes).toBeNull()
  expect(at([8.5, 20.5], 'wall')!.layerTimes).toBeNull()
})

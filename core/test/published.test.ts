import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { posterior } from '../src/diagnosis'
import {
  beadArea,
  beadTemperature,
  beadWidth,
  coolingTime,
  coolingTimeConstant,
  feedPerMillimetre,
  filamentArea,
  filamentLength,
  filamentMass,
  meltRate,
  solidSpacing,
  speedAtMeltCap,
} from '../src/extrusion'
import { fullStep, squareCornerSpeed } from '../src/machine'
import { diameterFacts } from '../src/material'
import { moveTime } from '../src/motion'
import {
  chiSquarePValue,
  combineUncertainties,
  fPValue,
  fQuantile,
  linearFit,
  meanOf,
  normalQuantile,
  normalShare,
  resolutionUncertainty,
  tPValue,
  tQuantile,
} from '../src/statistics'
import { mainEffects } from '../src/trials'
import type { VariedKey } from '../src/trials'

// Everything here is held against something outside: each line names its source. docs/checks.md lists them.

type Check = [what: string, got: number, published: number, within: number]

const GEOMETRY = 'Plain geometry'
const bead: Check[] = [
  ['bead 0.45 × 0.20 mm, section, mm²', beadArea(0.45, 0.2), 0.081416, 1e-6],
  ['filament 1.75 mm, section, mm²', filamentArea(1.75), 2.405282, 1e-6],
  ['filament 2.85 mm, section, mm²', filamentArea(2.85), 6.379397, 1e-6],
  ['1 kg of 1.24 g/cm³ at 1.75 mm, length, m', filamentLength(1000, 1.75, 1.24) / 1000, 335.3, 0.05],
  ['1 m of 1.75 mm at 1.24 g/cm³, g', filamentMass(1000, 1.75, 1.24), 2.98255, 1e-5],
  ['width of a bead of 0.081416 mm² at 0.20 mm, mm', beadWidth(0.081416, 0.2), 0.45, 1e-5],
  ['feed for 1 mm of 0.45 × 0.20, mm', feedPerMillimetre(0.45, 0.2, 1.75), 0.0338488, 1e-6],
  ['melt rate of 0.45 × 0.20 at 60 mm/s, mm³/s', meltRate(0.45, 0.2, 60), 4.88496, 1e-5],
  ['speed of 0.45 × 0.20 at 12 mm³/s, mm/s', speedAtMeltCap(0.45, 0.2, 12), 147.391, 1e-3],
  ['spacing of touching lines 0.45 × 0.20, mm', solidSpacing(0.45, 0.2), 0.40708, 1e-5],
]
const KINEMATICS = 'Kinematics: d/v + v/a where d ≥ v²/a, else 2·√(d/a)'
const moves: Check[] = [
  ['100 mm at 50 mm/s, 1000 mm/s², s', moveTime(100, 50, 1000), 2.05, 1e-12],
  ['1 mm at 100 mm/s, 1000 mm/s², s', moveTime(1, 100, 1000), 2 * Math.sqrt(0.001), 1e-12],
  ['10 mm at 100 mm/s, 1000 mm/s², just reached, s', moveTime(10, 100, 1000), 0.2, 1e-12],
  ['square corner, deviation 0.02 mm, 1000 mm/s², mm/s', squareCornerSpeed(0.02, 1000), 6.9488, 1e-3],
  [
    'full step of an 8 mm screw on 200 steps, mm',
    fullStep({ z: { lead: 8, stepsPerTurn: 200 } }),
    0.04,
    1e-12,
  ],
]
const TABLES = 'Any table of the distribution'
const tables: Check[] = [
  ...(
    [
      [1, 12.706],
      [2, 4.303],
      [3, 3.182],
      [4, 2.776],
      [5, 2.571],
      [6, 2.447],
      [8, 2.306],
      [10, 2.228],
      [20, 2.086],
      [30, 2.042],
      [Infinity, 1.96],
    ] as const
  ).map(([dof, t]): Check => [`Student t 0.975, ${dof} degrees of freedom`, tQuantile(0.975, dof), t, 6e-4]),
  ['Student t 0.95, 10 degrees of freedom', tQuantile(0.95, 10), 1.812, 6e-4],
  ['Student t 0.995, 10 degrees of freedom', tQuantile(0.995, 10), 3.169, 6e-4],
  ['p of t 2.228 with 10', tPValue(2.228, 10), 0.05, 1e-4],
  ['F 0.95 of 1 and 5', fQuantile(0.95, 1, 5), 6.608, 6e-4],
  ['F 0.95 of 2 and 10', fQuantile(0.95, 2, 10), 4.103, 6e-4],
  ['F 0.95 of 3 and 10', fQuantile(0.95, 3, 10), 3.708, 6e-4],
  ['F 0.95 of 1 and 4', fQuantile(0.95, 1, 4), 7.709, 6e-4],
  ['F 0.95 of 4 and 20', fQuantile(0.95, 4, 20), 2.866, 6e-4],
  ['p of F 4.103 of 2 and 10', fPValue(4.103, 2, 10), 0.05, 1e-4],
  ['p of χ² 3.841 with 1', chiSquarePValue(3.841, 1), 0.05, 1e-4],
  ['p of χ² 6.635 with 1', chiSquarePValue(6.635, 1), 0.01, 1e-4],
  ['p of χ² 5.991 with 2', chiSquarePValue(5.991, 2), 0.05, 1e-4],
  ['p of χ² 7.815 with 3', chiSquarePValue(7.815, 3), 0.05, 1e-4],
  ['normal 0.975', normalQuantile(0.975), 1.959964, 1e-6],
  ['share below 1.6449', normalShare(1.6449), 0.95, 1e-5],
]

// NIST StRD, built by rule; certified values from memory
const wampler = (y: (x: number) => number) => {
  const x = Array.from({ length: 21 }, (_, i) => i)
  return linearFit(
    x.map((v) => [0, 1, 2, 3, 4, 5].map((k) => v ** k)),
    x.map(y),
  )!.coefficients
}
const powers = [0, 1, 2, 3, 4, 5]
const one = wampler((x) => powers.reduce((s, k) => s + x ** k, 0))
const two = wampler((x) => powers.reduce((s, k) => s + (0.1 * x) ** k, 0))
const acc1 = meanOf([10000001, 10000003, 10000002])
const acc4 = meanOf([10000000.2, ...Array.from({ length: 500 }, () => [10000000.1, 10000000.3]).flat()])
// NIST StRD Longley, higher difficulty: six columns that nearly hang together. Entered from memory; the certified values prove it.
const longley = [
  [60323, 83.0, 234289, 2356, 1590, 107608, 1947],
  [61122, 88.5, 259426, 2325, 1456, 108632, 1948],
  [60171, 88.2, 258054, 3682, 1616, 109773, 1949],
  [61187, 89.5, 284599, 3351, 1650, 110929, 1950],
  [63221, 96.2, 328975, 2099, 3099, 112075, 1951],
  [63639, 98.1, 346999, 1932, 3594, 113270, 1952],
  [64989, 99.0, 365385, 1870, 3547, 115094, 1953],
  [63761, 100.0, 363112, 3578, 3350, 116219, 1954],
  [66019, 101.2, 397469, 2904, 3048, 117388, 1955],
  [67857, 104.6, 419180, 2822, 2857, 118734, 1956],
  [68169, 108.4, 442769, 2936, 2798, 120445, 1957],
  [66513, 110.8, 444546, 4681, 2637, 121950, 1958],
  [68655, 112.6, 482704, 3813, 2552, 123366, 1959],
  [69564, 114.2, 502601, 3931, 2514, 125368, 1960],
  [69331, 115.7, 518173, 4806, 2572, 127852, 1961],
  [70551, 116.9, 554894, 4007, 2827, 130081, 1962],
]
const economy = linearFit(
  longley.map(([, ...x]) => [1, ...x]),
  longley.map(([y]) => y),
)!
const CERTIFIED = [
  -3482258.63459582, 15.0618722713733, -0.035819179292591, -2.02022980381683, -1.03322686717359,
  -0.0511041056535807, 1829.15146461355,
]
const NIST = 'NIST StRD (certified, from memory)'
const nist: Check[] = [
  ...one.map((c, k): Check => [`Wampler1, coefficient ${k}`, c, 1, 1e-6]),
  ...two.map((c, k): Check => [`Wampler2, coefficient ${k}`, c, 0.1 ** k, 1e-6]),
  ...CERTIFIED.map((c, k): Check => [`Longley, coefficient ${k}`, economy.coefficients[k] / c, 1, 1e-8]),
  ['Longley, residual standard deviation', economy.sd, 304.854073561965, 1e-5],
  ['Longley, R²', economy.r2, 0.995479004577296, 1e-10],
  ['NumAcc1, mean', acc1.mean, 10000002, 1e-6],
  ['NumAcc1, standard deviation', acc1.sd, 1, 1e-6],
  ['NumAcc4, mean', acc4.mean, 10000000.2, 1e-6],
  ['NumAcc4, standard deviation', acc4.sd, 0.1, 1e-6],
]

const BOX = 'Box, Hunter & Hunter, pilot plant 2³'
const signs = (k: number) => ([0, 1, 2] as const).map((f) => ((k >> f) & 1 ? 1 : -1))
const plant = [60, 72, 54, 68, 52, 83, 45, 80]
const keys: VariedKey[] = ['nozzle', 'fan', 'flow']
const effects = mainEffects(
  plant.map((y, k) => ({ y, values: Object.fromEntries(keys.map((key, f) => [key, signs(k)[f]])) })),
  keys,
)!
const designs: Check[] = [
  ['main effect of T', effects[0].effect, 23, 1e-9],
  ['main effect of C', effects[1].effect, -5, 1e-9],
  ['main effect of K', effects[2].effect, 1.5, 1e-9],
]

const GUM = 'JCGM 100 (GUM)'
// example H.1, end gauge: components in nm with their degrees of freedom, from memory
const gauge = combineUncertainties(0, [
  { u: 25, dof: 18 },
  { u: 9.7, dof: 25.6 },
  { u: 2.9, dof: 50 },
  { u: 16.6, dof: 2 },
])
const four = combineUncertainties(
  0,
  [1, 1, 1, 1].map((u) => ({ u, dof: Infinity })),
)
const gum: Check[] = [
  ['H.1 end gauge, combined standard uncertainty, nm', gauge.u, 32, 0.5],
  ['H.1 end gauge, effective degrees of freedom', Math.floor(gauge.dof), 16, 0],
  ['a display of 0.01, a/√12', resolutionUncertainty(0.01), 0.0028868, 1e-7],
  ['JCGM 101: four standard normals added', four.u, 2, 1e-12],
  [
    'two alike readings of 0.01: what the display leaves',
    diameterFacts({
      measured: [
        { a: 1.75, b: null },
        { a: 1.75, b: null },
      ],
    })!.uncertainty!,
    0.0028868,
    1e-7,
  ],
]

const cooling = {
  nozzle: 25,
  target: 0,
  air: 200,
  width: 0.45,
  height: 0.2,
  density: 1.24,
  heatCapacity: 1800,
  coefficient: 80,
}
const tau = coolingTimeConstant(cooling)
const HEAT = 'Lumped capacitance (Incropera & DeWitt, example 5.1)'
const heat: Check[] = [
  ['25 °C in 200 °C gas after 5.2 time constants, °C', beadTemperature(cooling, 5.2 * tau), 199, 0.1],
  [
    'the same the other way: time from 200 to 26 °C in 25 °C air, time constants',
    coolingTime({ ...cooling, nozzle: 200, target: 26, air: 25 }) / tau,
    Math.log(175),
    1e-9,
  ],
]

const EDDY = 'Eddy 1982: prior 1 %, hit rate 80 %, false alarm 9.6 %'
const eddy = posterior([{ prior: 0.01, links: [[0, 1 - 0.2 / 0.904]] }], [{ leak: 0.096, state: true }])
  .causes[0]
const bayes: Check[] = [['posterior, %', eddy * 100, 7.8, 0.05]]

const ALL: [source: string, checks: Check[]][] = [
  [GEOMETRY, bead],
  [KINEMATICS, moves],
  [TABLES, tables],
  [NIST, nist],
  [BOX, designs],
  [GUM, gum],
  [HEAT, heat],
  [EDDY, bayes],
]

describe.each(ALL)('%s', (_, checks) => {
  test.each(checks)('%s', (_what, got, published, within) => {
    expect(Math.abs(got - published)).toBeLessThanOrEqual(within)
  })
})

test('docs/checks.md lists every one of them, with its source', () => {
  expect(ALL.flatMap(([, c]) => c).length).toBeGreaterThanOrEqual(60)
  const text = readFileSync(join(__dirname, '../../docs/checks.md'), 'utf8')
  const missing = ALL.flatMap(([source, checks]) => [source, ...checks.map(([what]) => what)]).filter(
    (w) => !text.includes(w),
  )
  expect(missing).toEqual([])
})

// How long a part takes to be planned, against the bare kernel's slicing and offsetting in the same run.
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import Module from 'manifold-3d'
import { DEMO_MACHINES, demoFilaments } from '../../core/src/demo'
import {
  readStl,
  scoped,
  solidOf,
  writeStl,
  meshOf,
  type Kernel,
  type Mesh,
  type Solid,
} from '../../core/src/geometry'
import { onBed, planPart, writePlan } from '../../core/src/planner'
import { deriveRecipe, partSettingsOf } from '../../core/src/recipe'

const require = createRequire(import.meta.url)
interface Listed {
  positions: [number, number, number][]
  cells: [number, number, number][]
}

const kernel: Kernel = await Module({
  wasmBinary: readFileSync(require.resolve('manifold-3d/manifold.wasm')),
} as unknown as Parameters<typeof Module>[0])
kernel.setup()

const machine = DEMO_MACHINES.greenhouse
const filament = demoFilaments('2026-01-01').fern
const settings = { ...partSettingsOf(deriveRecipe({ machine, filament })), layerHeight: 0.2 }

function timed<T>(work: () => T): { seconds: number; value: T } {
  const from = performance.now()
  const value = work()
  return { seconds: (performance.now() - from) / 1000, value }
}

/** The public bunny, 60 mm tall. */
function bunny(): Solid {
  const { positions, cells } = require('bunny') as Listed
  const mesh: Mesh = {
    vertices: Float32Array.from(positions.flat()),
    triangles: Uint32Array.from(cells.flat()),
  }
  const { solid } = solidOf(kernel, mesh)
  const upright = solid!.rotate([90, 0, 0])
  const { min, max } = upright.boundingBox()
  return upright.scale(60 / (max[2] - min[2]))
}

/** Slices, and as many insets as there are walls and one inside: nothing else. */
function bare(solid: Solid): void {
  scoped((keep) => {
    const placed = keep(onBed(solid, 100, 100))
    const { max } = placed.boundingBox()
    for (let z = settings.layerHeight / 2; z < max[2]; z += settings.layerHeight) {
      let area = keep(placed.slice(z))
      for (let k = 0; k <= settings.wallCount; k++) {
        area = keep(area.offset(k ? -settings.outerWidth : -settings.outerWidth / 2, 'Miter', 2))
        area.toPolygons()
      }
    }
  })
}

const middle = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]
const solid = bunny()
const ratios: number[] = []
const again: number[] = []
for (let turn = 0; turn < 5; turn++) {
  const { seconds: own, value: plan } = timed(() => planPart(kernel, solid, machine, settings))
  const { seconds: kernelOnly } = timed(() => bare(solid))
  ratios.push(own / kernelOnly)
  const { seconds: rewritten } = timed(() =>
    writePlan(plan, machine, { ...settings, outerSpeed: 25 }, { title: 'bunny' }),
  )
  again.push(rewritten * 1000)
}
console.log(
  `bunny, 60 mm at 0.2 mm: planned in ${middle(ratios).toFixed(1)} × the bare kernel's slicing and offsetting (aim 3); another speed written in ${middle(again).toFixed(0)} ms (aim 150)`,
)

const million = scoped((keep) => writeStl(meshOf(keep(kernel.Manifold.sphere(40, 1412)))))
const before = process.memoryUsage().rss
const read = timed(() => readStl(million))
const made = timed(() => solidOf(kernel, read.value))
const laid = timed(() => planPart(kernel, made.value.solid!, machine, settings))
console.log(
  `${(read.value.triangles.length / 3e6).toFixed(2)} million faces: read ${read.seconds.toFixed(1)} s, made solid ${made.seconds.toFixed(1)} s, planned ${laid.seconds.toFixed(1)} s; ${((process.memoryUsage().rss - before) / 1e9).toFixed(2)} GB more (aims 25 s, 1.5 GB)`,
)

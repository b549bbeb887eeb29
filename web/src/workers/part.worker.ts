import { sha256 } from '@noble/hashes/sha2'
import { bytesToHex } from '@noble/hashes/utils'
import {
  changesWorth,
  outlookOf,
  partFactsOf,
  placingPairOf,
  planOnPair,
  waysFaster,
  type FasterChange,
  type ForecastChange,
  type PartFacts,
  type PartOnPair,
  type PartView,
} from '@verimend/core/casework'
import {
  DRAWN_UNITS,
  MeshError,
  extentOf,
  joined,
  meshFault,
  meshOf,
  placed,
  readMeshes,
  sizeOf,
  solidOf,
  triangleCount,
  unitGuesses,
  writeThreeMf,
  type DrawnUnit,
  type Kernel,
  type MendedMesh,
  type Mesh,
  type Placement,
  type Ring,
  type Solid,
  type UnitGuess,
} from '@verimend/core/geometry'
import {
  PlanError,
  fittingScale,
  frontOf,
  rankPlacings,
  settingsFor,
  smallestWall,
  standing,
  turned,
  type Layout,
  type RankedPlacing,
  type SmallestWall,
} from '@verimend/core/planner'
import { SETTING_KEYS, partSettingsOf, recipeWith, settingApplies, type Changes } from '@verimend/core/recipe'
import type { Reason } from '@verimend/core/quantity'
import { layerPlan, type Feature, type LayerPlan } from '@verimend/core/toolpath'
import type { PairOnBench } from '@verimend/core/trials'
import { say, settingLabel, valueText } from '@verimend/core/words'
import Module from 'manifold-3d'
import wasm from 'manifold-3d/manifold.wasm?url'

/** What is known of a mesh once it is read. */
export interface OpenedMesh {
  sha256: string
  bytes: number
  fileName: string
  faces: number
  size: [number, number, number]
  volume: number
  unit: DrawnUnit
  units: UnitGuess[]
  /** What was put right. */
  mended: Pick<MendedMesh, 'withoutArea' | 'doubled' | 'turned' | 'insideOut' | 'holes'>
  mesh: Mesh
}
/** A placing with its drawing from the front. */
export interface DrawnPlacing extends RankedPlacing {
  front: { outline: Ring[]; hanging: Ring[] }
}
export interface Placings {
  list: DrawnPlacing[]
  fits: number | null
  thinnest: SmallestWall | null
}
export interface PlanAsk {
  pair: PairOnBench
  own: Changes
  layout: Layout
  title: string
  notes: string[]
  today: string
}
/** Where the minutes of a plan go, and what would save some. */
export interface FasterAnswer {
  minutes: number
  /** By kind of line, most first; what is neither is travel and waiting. */
  spent: { feature: Feature; minutes: number }[]
  ways: FasterChange[]
}
/** Which of two plans that lie side by side. */
export type PlanSide = 'now' | 'then'

export interface PartTasks {
  open: { ask: { source: File | string; name: string; unit: DrawnUnit | null }; answer: OpenedMesh }
  placings: {
    ask: { pair: PairOnBench; own: Changes; layout: Layout }
    answer: Placings
  }
  plan: { ask: { side: PlanSide } & PlanAsk; answer: PartView }
  layer: { ask: { side: PlanSide; layer: number }; answer: LayerPlan }
  gcode: { ask: { side: PlanSide }; answer: { text: string; sha256: string } }
  threeMf: {
    ask: { layout: Layout; pair: PairOnBench; own: Changes; title: string; notes: string[] }
    answer: Uint8Array
  }
  worth: { ask: PlanAsk; answer: ForecastChange[] }
  faster: { ask: PlanAsk; answer: FasterAnswer }
  facts: { ask: { pair: PairOnBench; own: Changes; layout: Layout }; answer: PartFacts }
}
export type PartTask = keyof PartTasks
export type ToPartWorker = { [T in PartTask]: { task: T; id: number; ask: PartTasks[T]['ask'] } }[PartTask]
export type FromPartWorker =
  | { id: number; share: number }
  | { id: number; answer: PartTasks[PartTask]['answer'] }
  | { id: number; fault: string; reason: Reason | null }

const send = (message: FromPartWorker, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(message, transfer)

let kernel: Promise<Kernel> | null = null
const theKernel = (): Promise<Kernel> =>
  (kernel ??= Module({ locateFile: () => wasm }).then((k) => {
    k.setup()
    return k
  }))
let solid: Solid | null = null
let drawn: { mesh: Mesh; sha256: string; bytes: number; fileName: string } | null = null
const plans: Record<PlanSide, PartOnPair | null> = { now: null, then: null }

const opened = (): Solid => {
  if (!solid) throw new Error('No part is open.')
  return solid
}

/** A larger file is read in pieces of this many bytes, so that its progress shows. */
const PIECE = 4_000_000

async function bytesOf(source: File | string, onStep: (share: number) => void): Promise<Uint8Array> {
  let stream: ReadableStream<Uint8Array>
  let size: number
  if (typeof source === 'string') {
    const response = await fetch(source)
    if (!response.ok || !response.body) throw new Error('The kept file could not be fetched.')
    stream = response.body
    size = Number(response.headers.get('content-length')) || 0
  } else {
    stream = source.stream()
    size = source.size
  }
  const chunks: Uint8Array[] = []
  let have = 0
  let told = 0
  const reader = stream.getReader()
  for (;;) {
    const { done, value } = await reader.read()
    if (done) break
    chunks.push(value)
    have += value.length
    if (have - told > PIECE) {
      told = have
      onStep(have / Math.max(have, size))
    }
  }
  const bytes = new Uint8Array(have)
  let at = 0
  for (const c of chunks) {
    bytes.set(c, at)
    at += c.length
  }
  return bytes
}

/** Settings of a recipe as lines for a file's head. */
const settingLines = (recipe: PairOnBench['recipe']): string[] =>
  SETTING_KEYS.filter((key) => settingApplies(key, recipe)).map(
    (key) => `  ${settingLabel(key)}: ${valueText(key, recipe[key].value)}`,
  )

type Step = (share: number) => void
const TASKS: {
  [T in PartTask]: (
    ask: PartTasks[T]['ask'],
    step: Step,
  ) => Promise<PartTasks[T]['answer']> | PartTasks[T]['answer']
} = {
  async open({ source, name, unit }, step) {
    const bytes = await bytesOf(source, (s) => step(0.2 * s))
    const hash = bytesToHex(sha256(bytes))
    const meshes = readMeshes(bytes, name, (s) => step(0.2 + 0.4 * s))
    const mesh = joined(meshes.map((m) => m.mesh))
    drawn = { mesh, sha256: hash, bytes: bytes.length, fileName: name }
    step(0.65)
    return openedIn(await theKernel(), unit ?? 'mm')
  },
  async facts({ pair, own, layout }, step) {
    return partFactsOf(await theKernel(), opened(), { ...pair, recipe: recipeWith(pair, own) }, layout, step)
  },
  async placings({ pair, own, layout }, step) {
    const k = await theKernel()
    const s = opened()
    const recipe = recipeWith(pair, own)
    const settings = settingsFor(partSettingsOf(recipe), layout)
    const ranked = rankPlacings(
      s,
      { firstHeight: settings.firstHeight, density: settings.density, load: layout.load },
      placingPairOf({ ...pair, recipe }),
      8,
    )
    const list = ranked.map((r, i): DrawnPlacing => {
      step(i / ranked.length)
      const upright = standing(s, r.face.placement)
      try {
        return { ...r, front: frontOf(k, upright) }
      } finally {
        upright.delete()
      }
    })
    const stood = turned(s, layout)
    try {
      return {
        list,
        fits: fittingScale(stood, pair.machine, settings),
        thinnest: smallestWall(stood, pair.machine.nozzle.diameter),
      }
    } finally {
      stood.delete()
    }
  },
  async plan({ side, pair, own, layout, title, notes, today }, step) {
    const k = await theKernel()
    const recipe = recipeWith(pair, own)
    const made = planOnPair(k, opened(), {
      pair: { ...pair, recipe },
      layout,
      title,
      notes: [...notes, ...settingLines(recipe)],
      today,
      known: [plans.now, plans.then],
      onStep: step,
    })
    plans[side] = made
    return made.view
  },
  layer({ side, layer }) {
    const made = plans[side]
    if (!made) throw new Error('Nothing is planned yet.')
    return layerPlan(made.analysis, Math.min(Math.max(0, layer), made.analysis.index.z.length - 1))
  },
  gcode({ side }) {
    const made = plans[side]
    if (!made) throw new Error('Nothing is planned yet.')
    return { text: made.gcode, sha256: bytesToHex(sha256(new TextEncoder().encode(made.gcode))) }
  },
  async threeMf({ layout, pair, own, title, notes }) {
    await theKernel()
    const recipe = recipeWith(pair, own)
    const settings = settingsFor(partSettingsOf(recipe), layout)
    const stood = turned(opened(), layout)
    const scaled = stood.scale([settings.scaleX / 100, settings.scaleY / 100, settings.scaleZ / 100])
    try {
      return writeThreeMf([{ name: title, mesh: meshOf(scaled) }], title, [...notes, ...settingLines(recipe)])
    } finally {
      stood.delete()
      scaled.delete()
    }
  },
  async faster(ask, step) {
    const { bench, base, replan } = await bases(ask)
    const { reading, stiffness } = base.view
    const ways = waysFaster(
      bench,
      { reading, stiffness: stiffness.relative },
      outlookOf(base.view, ask.today),
      (recipe, share) => {
        step(share)
        const view = replan(recipe)
        return view && { reading: view.reading, stiffness: view.stiffness.relative }
      },
    )
    const spent = reading.features
      .map((f, i) => ({ feature: i as Feature, minutes: f.seconds / 60 }))
      .filter((f) => f.feature !== 0 && f.minutes > 0)
      .sort((a, b) => b.minutes - a.minutes)
    return { minutes: reading.seconds / 60, spent, ways }
  },
  async worth(ask, step) {
    const { bench, base, replan } = await bases(ask)
    const most = 12
    let tried = 0
    return changesWorth(
      bench,
      base.view.reading,
      outlookOf(base.view, ask.today),
      (recipe) => {
        step(tried++ / most)
        return replan(recipe)?.reading ?? null
      },
      most,
    )
  },
}

/** The open part as it is planned, and a way to plan it with other values; null where it cannot be laid so. */
async function bases({ pair, own, layout, title, notes, today }: PlanAsk) {
  const k = await theKernel()
  const bench = { ...pair, recipe: recipeWith(pair, own) }
  const plan = (recipe: PairOnBench['recipe'], known: readonly (PartOnPair | null)[]) =>
    planOnPair(k, opened(), { pair: { ...bench, recipe }, layout, title, notes, today, known })
  const base = plan(bench.recipe, [plans.now])
  const replan = (recipe: PairOnBench['recipe']): PartView | null => {
    try {
      return plan(recipe, [base]).view
    } catch (error) {
      if (error instanceof PlanError) return null
      throw error
    }
  }
  return { bench, base, replan }
}

/** Faces that the small view in space draws at most. */
const SHOWN_FACES = 60_000

/** A solid's surface for the small view: coarser where it has very many faces. */
function shownMesh(s: Solid): Mesh {
  if (s.numTri() <= SHOWN_FACES) return meshOf(s)
  const { min, max } = s.boundingBox()
  const coarse = s.simplify(Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 600)
  try {
    return meshOf(coarse)
  } finally {
    coarse.delete()
  }
}

/** The mesh at hand in a unit, made solid. */
function openedIn(k: Kernel, unit: DrawnUnit): OpenedMesh {
  const { mesh, ...file } = drawn!
  const by = DRAWN_UNITS[unit]
  const scaled: Placement = [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0]
  const own = by === 1 ? mesh : placed(mesh, scaled)
  const made = solidOf(k, own)
  const { open, crowded, withoutArea, doubled, turned: flips, insideOut, holes } = made.mended
  if (!made.solid) throw new MeshError(meshFault('mesh-no-inside', { open, crowded }))
  solid?.delete()
  solid = made.solid
  plans.now = null
  plans.then = null
  const extent = extentOf(own)!
  return {
    ...file,
    faces: triangleCount(own),
    size: sizeOf(extent),
    volume: solid.volume(),
    unit,
    units: unit === 'mm' ? unitGuesses(extent) : [],
    mended: { withoutArea, doubled, turned: flips, insideOut, holes },
    mesh: shownMesh(solid),
  }
}

async function work({ task, id, ask }: ToPartWorker): Promise<void> {
  const step: Step = (share) => send({ id, share })
  try {
    const run = TASKS[task] as (ask: unknown, step: Step) => Promise<PartTasks[PartTask]['answer']>
    send({ id, answer: await run(ask, step) })
  } catch (error) {
    const reason = error instanceof MeshError || error instanceof PlanError ? error.reason : null
    send({
      id,
      reason,
      fault: reason
        ? say(reason)
        : `This part could not be worked out (${error instanceof Error ? error.message : 'unknown fault'}).`,
    })
  }
}

// one after another: each finds what the one before has left
let last: Promise<void> = Promise.resolve()
self.onmessage = ({ data }: MessageEvent<ToPartWorker>) => {
  last = last.then(() => work(data))
}

import { readFileSync } from 'node:fs'
import { GcodeError, MoveKind, readGcode, type Program } from '@verimend/core/gcode'
import type { Machine } from '@verimend/core/machine'
import { cardOf } from '@verimend/core/material'
import { planMotion } from '@verimend/core/motion'
import { caliper, spanOf, weigh, type Axis, type Span } from '../inspect/caliper'
import { gradesOf, type Aspect } from '../inspect/grade'
import type { Region } from '../inspect/look'
import { appearancesOf, gradedBy, reportOf, STEADY_PERSON, USUAL_PERSON } from '../inspect/signs'
import { faultOfFile } from '../machine/check'
import type { PrintedPart, SizeOfPart } from '../part'
import { printProgram } from '../physics/print'
import { png } from '../picture/png'
import { render, type View } from '../picture/render'
import type { World } from '../world'

/** What a part is made from: what lies in the folder, so that it is the same whenever it is asked for. */
export interface Made {
  path: string
  machine: Machine
  world: World
  /** s into the print at which it ended; null where it came to its end. */
  until: number | null
}

export interface Planned {
  fault: string | null
  total: number
  layers: { z: number; ends: number }[]
  heats: { at: number; nozzle: number; bed: number }[]
}

/** Most layers and heats that are told of a file. */
const MOST_TOLD = 5000

const programOf = (path: string): Program => readGcode(readFileSync(path), { filamentDiameter: 1.75 })

/** @returns null where it is no G-code at all */
function readable(path: string): Program | null {
  try {
    return programOf(path)
  } catch (error) {
    if (error instanceof GcodeError) return null
    throw error
  }
}

/** Reads and checks a file, and plans when its layers end. */
export function plan(path: string, machine: Machine): Planned {
  const program = readable(path)
  const fault = program
    ? faultOfFile(program, machine)
    : 'This is no G-code: there is nothing to print in it.'
  if (fault !== null || !program) return { fault, total: 0, layers: [], heats: [] }
  const { seconds } = planMotion(program, machine.limits)
  const layers: Planned['layers'] = []
  const heats: Planned['heats'] = []
  let time = 0
  for (let i = 0; i < program.count; i++) {
    time += seconds[i]
    const s = program.states[program.state[i]]
    const last = heats.at(-1)
    const [nozzle, bed] = [s?.nozzle ?? 20, s?.bed ?? 20]
    if ((!last || last.nozzle !== nozzle || last.bed !== bed) && heats.length < MOST_TOLD)
      heats.push({ at: time - seconds[i], nozzle, bed })
    if (program.kind[i] !== MoveKind.Extrude) continue
    const z = program.z[i]
    const top = layers.at(-1)
    if (!top || z > top.z + 0.012) {
      if (layers.length < MOST_TOLD) layers.push({ z, ends: time })
    } else top.ends = time
  }
  if (layers.length) layers[layers.length - 1].ends = time
  return { fault: null, total: time, layers, heats }
}

/** The newest parts that were reckoned, so that looking again is quick. */
const KEPT = 3
const kept = new Map<string, PrintedPart>()

function partOf(made: Made): PrintedPart {
  const key = JSON.stringify([made.path, made.until, made.world])
  const known = kept.get(key)
  if (known) {
    kept.delete(key)
    kept.set(key, known)
    return known
  }
  const part = printProgram(programOf(made.path), made.machine, made.world, {
    until: made.until ?? Infinity,
  })
  kept.set(key, part)
  if (kept.size > KEPT) kept.delete(kept.keys().next().value!)
  return part
}

interface Looker {
  eye: 'exact' | 'person'
  seed: number
}
const personOf = ({ eye, seed }: Looker) =>
  eye === 'exact' ? { ...STEADY_PERSON, seed } : { ...USUAL_PERSON, seed }

export interface LookPlaces extends Looker {
  places: { id: string; region: Region; aspects: Aspect[] }[]
}
/** Grades of places; null where there is nothing of the kind to be seen. */
export function look(made: Made, q: LookPlaces): Record<string, Partial<Record<Aspect, number | null>>> {
  const part = partOf(made)
  const person = personOf(q)
  let place = 0
  return Object.fromEntries(
    q.places.map(({ id, region, aspects }) => {
      const grades = gradesOf(part, made.world, region, aspects)
      const told = aspects.map((a) => {
        const grade = grades[a] ?? null
        place++
        return [a, grade === null || q.eye === 'exact' ? grade : gradedBy(grade, person, place)]
      })
      return [id, Object.fromEntries(told)]
    }),
  )
}

export interface MeasurePlaces extends Looker {
  step: number
  places: {
    id: string
    region: Region
    what: Span | 'grams'
    axis: Axis
    repeats: number
  }[]
}
/** Readings of places, mm or g; none where there is nothing to measure. */
export function measure(made: Made, q: MeasurePlaces): Record<string, number[]> {
  const part = partOf(made)
  const { density } = cardOf(made.world.family)
  return Object.fromEntries(
    q.places.map(({ id, region, what, axis, repeats }) => {
      const exact =
        what === 'grams' ? weigh(part, density, region, q.step) : spanOf(part, made.world, region, axis, what)
      if (!exact) return [id, []]
      const reading = (k: number) =>
        what === 'grams' || q.eye === 'exact' ? exact : caliper(exact, made.world, q.step, q.seed * 31 + k)
      const readings = Array.from({ length: repeats }, (_, k) => reading(k))
      return [id, readings.filter((v) => v > 0)]
    }),
  )
}

/** What a person says of the whole, with what there is to weigh and to time. */
export function report(made: Made, q: Looker & { meant?: SizeOfPart }) {
  const part = partOf(made)
  const strengths = appearancesOf(part, made.world, q.meant)
  return {
    appearances: reportOf(strengths, personOf(q)),
    grams: Number(part.grams.toFixed(2)),
    seconds: Math.round(part.seconds),
    layers: part.layers.length,
    brokeOff: part.brokeOff !== null,
    box: boxOf(part),
  }
}

/** mm round everything above the skirt. */
function boxOf(part: PrintedPart): Region {
  const box = { x0: Infinity, x1: -Infinity, y0: Infinity, y1: -Infinity, z0: 0, z1: 0 }
  for (let i = 0; i < part.count; i++) {
    box.z1 = Math.max(box.z1, part.z[i])
    if (part.z[i] < 1 && part.layers.length > 4) continue
    const half = part.width[i] / 2
    box.x0 = Math.min(box.x0, part.x0[i] - half, part.x1[i] - half)
    box.x1 = Math.max(box.x1, part.x0[i] + half, part.x1[i] + half)
    box.y0 = Math.min(box.y0, part.y0[i] - half, part.y1[i] - half)
    box.y1 = Math.max(box.y1, part.y0[i] + half, part.y1[i] + half)
  }
  return box.x1 > box.x0 ? box : { x0: 0, x1: 1, y0: 0, y1: 1, z0: 0, z1: 1 }
}

/** A picture as PNG, with where it lies on the machine. */
export async function picture(
  made: Made,
  q: { view: View; size: number; colour?: string; region?: Region },
): Promise<{ bytes: Buffer; scale: number; left: number; top: number }> {
  const drawn = render(partOf(made), made.world, q.view, { colour: q.colour, size: q.size, block: q.region })
  const { scale, left, top } = drawn
  return { bytes: await png(drawn), scale, left, top }
}

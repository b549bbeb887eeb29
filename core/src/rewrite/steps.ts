import { MoveKind } from '../gcode/program'
import type { Overlay } from '../gcode/rewrite/overlay'
import type { Commands } from '../machine/commands'
import { Feature } from '../toolpath/features'
import { ChangeError, type FileChange } from './change'
import type { FileAsRead } from './file'
import { feedAgain, usualPulls } from './pulls'

/** A band has at least so many layers, or nothing can be told of it. Common practice, no source. */
const LEAST_LAYERS = 5

/** A band of a file's height. */
export interface Band {
  /** Its layers, the lowest first. */
  layers: number[]
  /** mm, where it begins and ends. */
  z0: number
  z1: number
}

/**
 * The layers between two heights in bands as high as each other, the lowest first. The first layer is in none.
 * @param from mm, @param to mm
 * @throws ChangeError where a band would have fewer layers than can be told apart
 */
export function bandsOfFile({ analysis }: FileAsRead, from: number, to: number, count: number): Band[] {
  const { z } = analysis.index
  const base = analysis.raftLayers
  const bottom = Math.max(from, z[base] ?? 0)
  const top = Math.min(to, z.at(-1) ?? 0)
  const each = (top - bottom) / count
  const bands = Array.from({ length: count }, (): Band => ({ layers: [], z0: 0, z1: 0 }))
  for (let l = base + 1; l < z.length; l++) {
    if (z[l] <= bottom + 1e-4 || z[l] > top + 1e-4) continue
    bands[Math.min(count - 1, Math.floor((z[l] - bottom - 1e-4) / each))].layers.push(l)
  }
  const least = Math.min(...bands.map((b) => b.layers.length))
  if (!(least >= LEAST_LAYERS))
    throw new ChangeError('change-bands-low', { count, layers: Math.max(0, least), least: LEAST_LAYERS })
  for (const b of bands) {
    b.z0 = z[b.layers[0] - 1]
    b.z1 = z[b.layers.at(-1)!]
  }
  return bands
}

/**
 * Pressure compensation as it is to be while each move runs, in the machine's command.
 * @param value s; undefined where it stays
 */
export function pressureOf(
  { reading }: FileAsRead,
  value: (i: number) => number | undefined,
  { pressure }: Commands,
): Overlay {
  if (reading.pressure === null && pressure === 'none') throw new ChangeError('change-no-command')
  return { states: { pressure: value }, spell: { pressure: pressure === 's' ? 's' : 'k' } }
}

/** Bands of a file's height at stepped values, for the writer. */
export function steps(
  file: FileAsRead,
  change: Extract<FileChange, { kind: 'steps' }>,
  commands: Commands,
): Overlay {
  const { analysis, reading } = file
  const { program, index, featureOf } = analysis
  const valueOf = new Map<number, number>()
  bandsOfFile(file, change.from, change.to, change.values.length).forEach((band, k) => {
    for (const l of band.layers) valueOf.set(l, change.values[k])
  })
  const at = (i: number) => valueOf.get(index.layerOf[i])
  const outer = (i: number) =>
    program.kind[i] === MoveKind.Extrude && featureOf[i] === Feature.Outer ? at(i) : undefined
  switch (change.of) {
    case 'nozzle': {
      const usual = reading.rest.nozzle
      if (usual === null) throw new ChangeError('change-not-told')
      // what another tool lays with is of another roll
      const several = program.states.some((s) => s.tool !== program.states[0].tool)
      return { states: { nozzle: (i, have) => (several && have !== usual ? undefined : at(i)) } }
    }
    case 'fan':
      return { states: { fan: (i) => at(i) } }
    case 'speed':
      if (!reading.features[Feature.Outer].length) throw new ChangeError('change-does-nothing')
      return { speed: (i, v) => outer(i) ?? v }
    case 'acceleration':
      if (reading.features[Feature.Outer].acceleration === null) throw new ChangeError('change-not-told')
      return { states: { printAcceleration: (i) => outer(i) } }
    case 'pressure':
      return pressureOf(file, at, commands)
    case 'retract-length': {
      if (reading.retraction.kind === 'firmware') throw new ChangeError('change-on-machine')
      const { e } = program
      const fed = new Map<number, number>()
      for (const p of usualPulls(file)) {
        let line = p.back[0]
        while (line >= 0 && program.kind[line] !== MoveKind.Extrude) line--
        const value = line < 0 ? undefined : at(line)
        if (value === undefined) continue
        for (const i of p.back) fed.set(i, (e[i] * value) / p.pulled)
        feedAgain(file, p, value - p.pulled, fed)
      }
      if (!fed.size) throw new ChangeError('change-does-nothing')
      return { feed: (i, was) => fed.get(i) ?? was }
    }
  }
}

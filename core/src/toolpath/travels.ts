import { MoveKind, type Program } from '../gcode/program'
import type { Analysis, OpenTravel } from './analysis'
import type { LayerIndex } from './layers'
import type { Region } from './region'

export interface TravelMove {
  move: number
  retracted: boolean
  /** Moves between two feeds share a run. */
  run: number
}

/** What is gone on without feed before the filament is pulled back is a wipe up to this length, mm. */
const LONGEST_WIPE = 15

/** Travels and stops of each layer, with whether the filament was pulled back. */
export function travelsByLayer(program: Program, index: LayerIndex, layers: number) {
  const { count, kind, x, y } = program
  const travelOf: TravelMove[][] = Array.from({ length: layers }, () => [])
  const stopOf: number[][] = Array.from({ length: layers }, () => [])
  const lastLaid = kind.lastIndexOf(MoveKind.Extrude)
  let retracted = false
  let run = 0
  // moves since the last feed: until the filament is pulled back they go on along the line, to stop early or to wipe
  let since: { list: TravelMove[]; length: number }[] = []
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    if (k === MoveKind.Extrude || k === MoveKind.Feed) {
      retracted = false
      run++
      since = []
      continue
    }
    if (k === MoveKind.Retract || k === MoveKind.RetractMoving) {
      retracted = true
      if (since.reduce((sum, s) => sum + s.length, 0) <= LONGEST_WIPE) for (const s of since) s.list.pop()
      since = []
      continue
    }
    const l = index.layerOf[i]
    if (l < 0) continue
    if (k === MoveKind.Travel) {
      if (i > lastLaid) continue
      const dx = x[i] - (i ? x[i - 1] : 0)
      const dy = y[i] - (i ? y[i - 1] : 0)
      if (dx * dx + dy * dy <= 0.25) continue
      travelOf[l].push({ move: i, retracted, run })
      if (!retracted) since.push({ list: travelOf[l], length: Math.hypot(dx, dy) })
    } else if (k === MoveKind.Dwell) stopOf[l].push(i)
  }
  return { travelOf, stopOf }
}

/** Lines that lie closer than twice this are no air to cross, mm: fill that has no wall around it. */
const ROUND_A_LINE = 2

/**
 * Travels of 2 mm or more outside every outline of the layer.
 * @param laid whether a cell of the region's grid carries a line of the layer; null where all its lines lie in outlines.
 *   A wall of one line encloses nothing: it is what is laid that is not air there.
 */
export function openTravels(
  a: Analysis,
  region: Region,
  travels: TravelMove[],
  layer: number,
  laid: ((cell: number) => boolean) | null,
): void {
  const { x, y } = a.program
  const { grid } = region
  const { cell } = grid
  const away = Math.ceil(ROUND_A_LINE / cell)
  const alone = (px: number, py: number) => {
    if (!laid) return true
    for (let i = -away; i <= away; i++)
      for (let j = -away; j <= away; j++) if (laid(grid.at(px + i * cell, py + j * cell))) return false
    return true
  }
  let now: (OpenTravel & { run: number }) | null = null
  const close = () => {
    if (now && now.length >= 2) {
      const { run: _, ...travel } = now
      a.travels.push(travel)
    }
    now = null
  }
  for (const t of travels) {
    if (now && now.run !== t.run) close()
    const i = t.move
    const ax = x[i - 1] ?? 0
    const ay = y[i - 1] ?? 0
    const dx = x[i] - ax
    const dy = y[i] - ay
    const d = Math.sqrt(dx * dx + dy * dy)
    const steps = Math.max(2, Math.ceil(d / cell))
    let open = 0
    let air = false
    for (let k = 0; k < steps; k++) {
      const f = (k + 0.5) / steps
      const px = ax + dx * f
      const py = ay + dy * f
      if (region.has(px, py) || laid?.(grid.at(px, py))) continue
      open++
      air ||= alone(px, py)
    }
    const length = (open / steps) * d
    if (length <= 0.3 || !air) continue
    now ??= { layer, length: 0, retracted: true, from: i, to: i, run: t.run }
    now.length += length
    now.to = i
    if (!t.retracted) now.retracted = false
  }
  close()
}

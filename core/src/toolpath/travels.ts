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

/** Travels of 2 mm or more outside every outline of the layer. */
export function openTravels(
  a: Analysis,
  region: Region,
  travels: TravelMove[],
  layer: number,
  outlined: boolean,
): void {
  if (!outlined) return
  const { x, y } = a.program
  const cell = region.grid.cell
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
    for (let k = 0; k < steps; k++) {
      const f = (k + 0.5) / steps
      if (!region.has(ax + dx * f, ay + dy * f)) open++
    }
    const length = (open / steps) * d
    if (length <= 0.3) continue
    now ??= { layer, length: 0, retracted: true, from: i, to: i, run: t.run }
    now.length += length
    now.to = i
    if (!t.retracted) now.retracted = false
  }
  close()
}

import { beadWidth, filamentArea } from '../extrusion/bead'
import type { Program } from '../gcode/program'
import { Grid, type Box } from '../geometry/grid'
import { planMotion } from '../motion/timeline'
import type { Analysis, ReadingContext } from './analysis'
import { aroundTheBase, raftAt } from './base'
import { Feature } from './features'
import { indexLayers, type LayerIndex } from './layers'
import { classifyLayer, findStretches, type Stretch } from './loops'
import { objectsOf, spansOf } from './objects'
import { Region } from './region'
import { takeShields } from './shields'
import { startOf } from './starts'
import { openTravels, travelsByLayer } from './travels'

/** Thickness that a stretch's layer has, mm. */
const heightOf = (index: LayerIndex, layer: number) => Math.max(0.02, index.height[layer] || 0.2)

/**
 * Takes a program apart: motion, layers, stretches, features, support from below, open-air travel, loop starts,
 * stops. One pass a concern, in linear time for usual files.
 * @param onStep called between the stages with the share done, 0 to 1
 */
export function analysePath(
  program: Program,
  context: ReadingContext,
  onStep?: (share: number) => void,
): Analysis {
  const timeline = planMotion(program, context.limits)
  onStep?.(0.15)
  const index = indexLayers(program)
  onStep?.(0.25)
  const stretches = findStretches(program, index.layerOf)
  const layers = index.z.length
  const { order, first } = byLayer(stretches, layers)
  onStep?.(0.4)
  const area = filamentArea(context.filamentDiameter)
  const widthOf = (s: Stretch) =>
    s.length > 0 ? beadWidth((s.fed * area) / s.length, heightOf(index, s.layer)) : 0
  const box: Box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity }
  for (const s of stretches) {
    box.minX = Math.min(box.minX, s.minX)
    box.minY = Math.min(box.minY, s.minY)
    box.maxX = Math.max(box.maxX, s.maxX)
    box.maxY = Math.max(box.maxY, s.maxY)
  }
  const analysis: Analysis = {
    program,
    context,
    timeline,
    index,
    stretches,
    order,
    first,
    featureOf: new Uint8Array(program.count),
    raftLayers: 0,
    objects: [],
    starts: [],
    travels: [],
    stops: [],
    supported: new Float32Array(layers),
    overhang: new Float32Array(layers),
    spans: [],
    box,
    shields: new Set(),
  }
  if (!layers) return analysis
  const listOf = (l: number) => {
    const out: Stretch[] = []
    for (let k = first[l]; k < first[l + 1]; k++) out.push(stretches[order[k]])
    return out
  }
  for (let l = 0; l < layers; l++) classifyLayer(program, listOf(l), context.nozzleDiameter, widthOf)
  onStep?.(0.6)
  analysis.shields = takeShields(program, listOf, layers, context.nozzleDiameter, widthOf)
  analysis.raftLayers = raftAt(program, listOf, layers, context.nozzleDiameter, widthOf)
  aroundTheBase(
    program,
    analysis.shields,
    listOf,
    layers,
    analysis.raftLayers,
    context.nozzleDiameter,
    widthOf,
  )
  overLayers(analysis, listOf)
  onStep?.(0.9)
  for (const s of stretches) analysis.featureOf.fill(s.feature, s.from, s.to + 1)
  onStep?.(1)
  return analysis
}

function byLayer(stretches: Stretch[], layers: number) {
  const first = new Int32Array(layers + 1)
  for (const s of stretches) first[s.layer + 1]++
  for (let l = 0; l < layers; l++) first[l + 1] += first[l]
  const order = new Int32Array(stretches.length)
  const next = first.slice()
  stretches.forEach((s, i) => (order[next[s.layer]++] = i))
  return { order, first }
}

/** Support from below, outlines, objects, loop starts, open-air travel and stops, layer by layer from the bed up. */
function overLayers(a: Analysis, listOf: (l: number) => Stretch[]): void {
  const { program, index, box } = a
  const { x, y } = program
  const layers = index.z.length
  const grid = Grid.around(box, 1, 0.4, 500)
  const region = new Region(grid)
  // height of the newest material in a cell, and of the one before it
  const newest = new Float32Array(grid.size).fill(-1)
  const older = new Float32Array(grid.size).fill(-1)
  const { travelOf, stopOf } = travelsByLayer(program, index, layers)
  const last: Box[] = []
  for (let l = 0; l < layers; l++) {
    const list = listOf(l)
    const z = index.z[l]
    const h = heightOf(index, l)
    let laid = 0
    let held = 0
    for (const s of list) {
      let own = 0
      let ownHeld = 0
      for (let i = s.from; i <= s.to; i++) {
        const ax = i ? x[i - 1] : 0
        const ay = i ? y[i - 1] : 0
        const dx = x[i] - ax
        const dy = y[i] - ay
        const d = Math.sqrt(dx * dx + dy * dy)
        const steps = Math.max(1, Math.round(d / grid.cell))
        for (let k = 0; k < steps; k++) {
          const t = (k + 0.5) / steps
          const c = grid.at(ax + dx * t, ay + dy * t)
          if (c < 0) continue
          own++
          const below = newest[c] < z - 1e-3 ? newest[c] : older[c]
          if (l === 0 || z - below < 1.6 * h + 0.02 || besides(newest, older, c, grid.nx, z, h)) ownHeld++
          if (newest[c] < z - 1e-3) {
            older[c] = newest[c]
            newest[c] = z
          }
        }
      }
      laid += own
      held += ownHeld
      if (own && ownHeld < 0.4 * own && s.feature === Feature.Solid && l > 0) s.feature = Feature.Bridge
      if (own && s.feature === Feature.Outer) a.overhang[l] += s.length * (1 - ownHeld / own)
    }
    a.supported[l] = laid ? held / laid : 1
    const outline = list.filter((s) => s.closed && s.boundary)
    a.spans.push(spansOf(list))
    objectsOf(a, last, outline, l)
    for (const s of outline) startOf(a, s, l)
    if (travelOf[l].length || stopOf[l].length) {
      region.fill(program, outline)
      const open = list.some((s) => s.feature === Feature.Thin)
      if (outline.length || (open && l >= a.raftLayers))
        openTravels(a, region, travelOf[l], l, open ? (c) => c >= 0 && Math.abs(newest[c] - z) < 1e-3 : null)
      for (const move of stopOf[l])
        a.stops.push({
          layer: l,
          move,
          seconds: program.speed[move],
          overPart: region.has(x[move], y[move]) && program.z[move] < z + 2,
          x: x[move],
          y: y[move],
        })
    }
  }
}

/** Whether any cell beside this one has material right below: a bead rests on half its width too. */
function besides(
  newest: Float32Array,
  older: Float32Array,
  c: number,
  nx: number,
  z: number,
  h: number,
): boolean {
  for (const n of [c - 1, c + 1, c - nx, c + nx]) {
    if (n < 0 || n >= newest.length) continue
    const below = newest[n] < z - 1e-3 ? newest[n] : older[n]
    if (z - below < 1.6 * h + 0.02) return true
  }
  return false
}

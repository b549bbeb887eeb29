import type { Program } from '../gcode/program'
import type { Box } from '../geometry/grid'
import type { MotionLimits, MotionTimeline } from '../motion/timeline'
import type { LayerIndex } from './layers'
import type { Stretch } from './loops'

export interface ReadingContext {
  /** mm */
  filamentDiameter: number
  /** g/cm³ */
  density: number
  nozzleDiameter: number
  limits: MotionLimits
}

/** A body that grows from layer to layer; several stand side by side or one after another. */
export interface PathObject extends Box {
  firstLayer: number
  lastLayer: number
}

/** Where a loop that faces the air begins. */
export interface LoopStart {
  layer: number
  object: number
  stretch: number
  x: number
  y: number
  /** Degrees around the middle of its loop, 0 along +X, counter-clockwise. */
  angle: number
  /** Turn of the path at the start, degrees; positive bulges outwards. Beyond 30 it is a corner. */
  turn: number
  /** mm the feed ends before the loop closes. */
  early: number
  /** mm the head goes on along the loop after the feed has ended. */
  wipe: number
  /** In a hole, not on the outside. */
  hole: boolean
}

/** A travel through open air, merged over moves without feed in between. */
export interface OpenTravel {
  layer: number
  /** mm outside every outline of its layer */
  length: number
  retracted: boolean
  /** First and last move. */
  from: number
  to: number
}

/** The head standing still. */
export interface Stop {
  layer: number
  move: number
  seconds: number
  /** Over the part and close above it. */
  overPart: boolean
  x: number
  y: number
}

/** Everything that is known of a program's paths. Holds the program: large. */
export interface Analysis {
  program: Program
  context: ReadingContext
  timeline: MotionTimeline
  index: LayerIndex
  stretches: Stretch[]
  /** Stretches sorted by layer: those of layer l are `order[first[l]]` to `order[first[l + 1] − 1]`. */
  order: Int32Array
  first: Int32Array
  /** {@link Feature} of each move. */
  featureOf: Uint8Array
  /** Layers of a raft at the base. */
  raftLayers: number
  objects: PathObject[]
  starts: LoopStart[]
  travels: OpenTravel[]
  stops: Stop[]
  /** Share of each layer's extrusion with something right below, 0 to 1. */
  supported: Float32Array
  /** mm of outer wall of each layer with nothing right below. */
  overhang: Float32Array
  /** Silhouette of each layer from the front: merged spans in X of its outlines. */
  spans: [number, number][][]
  box: Box
  /** Loops of walls that only keep moving air off. */
  shields: ReadonlySet<Stretch>
}

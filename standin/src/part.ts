/**
 * What a print yields: every laid stretch with what became of it, and what went wrong between them. Plain data; places in mm on
 * the bed, as the machine really put them.
 */
export interface PrintedPart {
  /** Stretches in the order they were laid. */
  count: number
  x0: Float32Array
  y0: Float32Array
  x1: Float32Array
  y1: Float32Array
  /** Top of its layer, and the layer's height. */
  z: Float32Array
  h: Float32Array
  /** mm of the bead, as laid. */
  width: Float32Array
  /** What came out against what was asked. */
  fed: Float32Array
  /** °C of the melt, and of what lay under it when it came. */
  hot: Float32Array
  under: Float32Array
  /** How well it grew together with what is under it, 0 to 1. */
  bond: Float32Array
  /** mm it sags. */
  sag: Float32Array
  /** 0 is dull, 1 is glossy. */
  gloss: Float32Array
  /** mm it swings aside after a corner. */
  ripple: Float32Array
  /** Nothing beside it on one side at least: it is seen from outside. */
  seen: Uint8Array
  /** It lies on the bed itself: where the nozzle is near the bed its own height says nothing. */
  onBed: Uint8Array
  /** Share of its width with nothing under it. */
  hangs: Float32Array
  /** mm³/s that were asked for. */
  rate: Float32Array
  /** How soft what lies under it still was, 0 to 1. */
  warm: Float32Array
  strings: StringOfPlastic[]
  blobs: Blob[]
  /** What bulges (or lacks) at sharp corners. */
  corners: Blob[]
  /** What was fed with the head still. */
  heaps: Blob[]
  layers: LayerOfPart[]
  /** mm each corner of the foot has come off the bed, and where it is. */
  lifted: { x: number; y: number; by: number }[]
  foot: FootOfPart
  /** Sizes over all above the foot, mm: as the file has them, and as they came out, cold. */
  drawn: SizeOfPart
  came: SizeOfPart
  /** mm³/s that run out of the open nozzle while it waits. */
  drools: number
  /** The drive slipped so many times, and lost steps shifted all above these heights by so much. */
  slips: number
  shifts: { z: number; dx: number; dy: number }[]
  /** g, s, mm of filament pushed. */
  grams: number
  seconds: number
  pushed: number
  /** The machine stopped here, s into the print; null where it came to its end. */
  brokeOff: number | null
}

/** A thread between two places. */
export interface StringOfPlastic {
  x0: number
  y0: number
  x1: number
  y1: number
  z: number
  /** mm³ */
  volume: number
}
/** A bump or a dent, mm³ over what belongs there. */
export interface Blob {
  x: number
  y: number
  z: number
  volume: number
}
export interface LayerOfPart {
  z: number
  h: number
  seconds: number
  /** Mean over what is seen: width against what was asked, gloss. */
  width: number
  gloss: number
  /** mm the screw moves it aside. */
  dx: number
}
export interface SizeOfPart {
  x: number
  y: number
  z: number
}
export interface FootOfPart {
  /** mm², and the share of it that holds. */
  area: number
  holds: number
  /** Share of it with gaps between the lines, and with lines ploughed through each other. */
  open: number
  ridged: number
  /** Holding differs from place to place by so much. */
  uneven: number
  /** mm the lowest layers stand out. */
  flare: number
}

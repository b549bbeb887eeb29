import type { PrintSettings } from '../gcode/printSettings'

/**
 * What a part is laid with: the plain values of a recipe, by name. Lengths in mm, speeds in mm/s, angles in degrees,
 * scales and densities in %.
 */
export interface PartSettings extends PrintSettings {
  /** Moves every edge; below zero shrinks. */
  contourOffset: number
  /** Opens holes besides. */
  holeOffset: number
  /** Pulls the lowest layers in. */
  footTrim: number
  scaleX: number
  scaleY: number
  scaleZ: number
  brimWidth: number
  brimGap: number
  /** Diameter of round tabs under corners; 0 is none. */
  cornerTabs: number
  /** A platform under the part, and how it is laid. */
  raft: boolean
  raftBottomLayers: number
  raftTopLayers: number
  raftMargin: number
  raftGap: number
  raftBottomWidth: number
  raftBottomSpeed: number
  raftDensity: number
  raftTopWidth: number
  raftTopSpeed: number
  raftTopDensity: number
  /** Angle of the part's lowest lines to the raft's uppermost. */
  raftCrossing: number
  /** % fed in the part's first layer over a raft. */
  flowOverRaft: number
  /** Lines of a top's last layer, and of other solid layers. */
  topWidth: number
  solidWidth: number
  /** Walls of the first layer. */
  firstWalls: number
  /** One wall that rises without a seam. */
  spiral: boolean
  sparseKind: 'lines' | 'grid' | 'gyroid'
  /** Outer walls that hang past 45° and past 60° from upright. */
  overhangSpeed: number
  steepSpeed: number
  supports: 'none' | 'bed' | 'everywhere'
  /** What hangs farther than this from upright is carried. */
  supportAngle: number
  supportDensity: number
  /** Air between supports and what they carry. */
  supportGap: number
  /** Where a turned-away seam faces; 90 is the back. */
  seamDirection: number
  slowZoneHeight: number
  slowZoneSpeed: number
  smallLoopSpeed: number
  /** Loops shorter than this are small ones. */
  smallLoopLength: number
}

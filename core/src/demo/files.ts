import type { PartOptions } from '../planner/part'
import type { Changes } from '../recipe'

/** A path file of the table: what it was written for, and with which values. */
export interface DemoFile {
  machine: 'shed' | 'greenhouse'
  roll: 'fern' | 'dew' | 'willow'
  set: Changes
  name: string
  part: PartOptions
}

/** Path files of the table's cases. */
export const DEMO_FILES = {
  clips: {
    machine: 'shed',
    roll: 'fern',
    set: { retractLength: 2 },
    name: 'drip-line-clips.gcode',
    part: { title: 'drip-line clips', shape: 'box', width: 10, height: 10, copies: 2, apart: 30 },
  },
  hinge: {
    machine: 'greenhouse',
    roll: 'dew',
    set: { minLayerTime: 30, speedFloor: 10 },
    name: 'vent-hinge.gcode',
    part: {
      title: 'vent hinge',
      shape: 'box',
      width: 34,
      depth: 26,
      height: 26,
      bore: 6,
      steps: [{ from: 15, inset: 7 }],
      slowDown: true,
    },
  },
  tie: {
    machine: 'greenhouse',
    roll: 'willow',
    set: { seamPlace: 'stacked' },
    name: 'plant-tie.gcode',
    part: { title: 'plant tie', shape: 'round', width: 22, height: 14, bore: 14 },
  },
} as const satisfies Record<string, DemoFile>

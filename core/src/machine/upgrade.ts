import { fillMissing } from '../quantity/fillMissing'
import type { Machine } from './machine'

/** Shape in which machines are kept now. */
export const MACHINE_SCHEMA = 1

/** What a machine is taken to be where its record is older than a field: the plainest there is. */
const PLAINEST: Machine = {
  name: 'Machine',
  nozzle: { diameter: 0.4, material: 'brass', changedOn: null },
  drive: { kind: 'direct', tubeLength: 0 },
  frame: 'open',
  hotEnd: null,
  fan: { present: true, strength: 1 },
  bed: {
    shape: 'rectangle',
    width: 200,
    depth: 200,
    surface: 'glass',
    levelling: 'screws',
    printsSinceLevel: null,
    printsSinceWash: null,
    residual: null,
  },
  height: 200,
  limits: {
    nozzle: 250,
    bed: 80,
    speed: 120,
    zSpeed: 8,
    acceleration: 1000,
    travelAcceleration: 1000,
    corner: { kind: 'instant-change', limit: 8 },
  },
  chamber: null,
  z: { lead: 8, stepsPerTurn: 200 },
  belt: { pitch: 2, teeth: 20 },
  notes: '',
}

/** A kept machine in today's shape. Which corner rule it has is never guessed at when it says one. */
export function upgradeMachine(stored: unknown): Machine {
  const corner = (stored as Partial<Machine> | null)?.limits?.corner
  const machine = fillMissing(PLAINEST, stored)
  return corner ? { ...machine, limits: { ...machine.limits, corner } } : machine
}

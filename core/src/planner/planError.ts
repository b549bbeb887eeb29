import { reasonsOf, type Reason } from '../quantity/reason'

/** Why a part cannot be laid on a machine. */
export interface PlanFaults {
  'part-too-wide': object
  'part-too-tall': object
  'part-too-many-layers': object
  'spiral-in-pieces': object
  /** Layers of one copy after another, under bars so high, mm. */
  'too-tall-one-by-one': { height: number; under: number }
  'no-room-for-copies': { copies: number }
  'nothing-laid': object
}
export type PlanFault = keyof PlanFaults
export const planFault = reasonsOf<PlanFaults>()

/** What was to be laid does not fit the machine, or cannot be laid so. */
export class PlanError extends Error {
  readonly code: PlanFault
  constructor(readonly reason: Reason & { code: string }) {
    super(reason.code)
    this.name = 'PlanError'
    this.code = reason.code as PlanFault
  }
}

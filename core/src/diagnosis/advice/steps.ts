import type { CheckId, TrialId } from '../../knowledge/checks'
import type { SignId } from '../../knowledge/signs'
import type { SuspectId } from '../../knowledge/suspects'
import type { Reason } from '../../quantity/reason'
import type { Change } from './mends'

/** What a minute, a gram and a risk are worth to a person, against a minute of their own time. */
export interface CostWeights {
  /** A minute of the person's time. */
  mine: number
  /** A minute of the machine. */
  machine: number
  /** A gram of filament. */
  gram: number
  /** A side effect that may come with a mend. */
  risk: number
}
export const USUAL_WEIGHTS: CostWeights = { mine: 1, machine: 0.25, gram: 0.3, risk: 1.5 }

interface StepCost {
  /** Stable: kind and what it is about. */
  id: string
  /** Of the person. */
  minutes: number
  /** The machine's minutes and grams it takes. */
  machineMinutes: number
  grams: number
  /** Expected cost to the fix when this is done next, in weighted minutes. */
  expected: number
  /** What it saves against going straight to the mends. */
  saves: number
  /** What it does for the picture. */
  picture: Reason[]
}
export type AdvisedStep = StepCost &
  (
    | {
        kind: 'look'
        sign: SignId
        /** All that are asked about, at one place; the sign is among them. */ signs: SignId[]
        yes: number
      }
    | { kind: 'check'; check: CheckId; about: SuspectId[]; yes: number }
    | { kind: 'trial'; trial: TrialId; about: SuspectId[]; yes: number }
    | { kind: 'mend'; proposal: string; suspect: SuspectId; change: Change }
  )

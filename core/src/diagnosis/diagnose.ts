import type { FaultFamily } from '../knowledge/types'
import type { Facts } from '../knowledge/facts'
import { proposeMends, type Proposal } from './advice'
import { weigh, type AttemptEvidence, type Balance, type Evidence, type SignStates } from './balance'
import { findingContext, findingEvidence } from './evidence'
import { findingsOf } from './findings'
import { PRIOR } from '../knowledge/types'
import { suspectOf } from '../knowledge/suspects'
import {
  checkEvidence,
  learntEvidence,
  planNext,
  type CheckResult,
  type CostWeights,
  type Lesson,
  type Advice,
} from './plan'
import type { Cure } from './notebook'
import { gatherFacts, type Surroundings } from './facts'

export interface DiagnosisInput extends Surroundings {
  signs: SignStates
  attempts?: AttemptEvidence[]
  /** Earlier changes of this case that helped. */
  cures?: readonly Cure[]
  /** Evidence a person added, such as heights marked on the part. */
  evidence?: readonly Evidence[]
  families?: readonly FaultFamily[]
  /** What a minute, a gram and a risk are worth to this person. */
  weights?: Partial<CostWeights>
  /** Steps that cannot be done, by id. */
  cannot?: readonly string[]
  /** What checks and trials found. */
  checks?: readonly CheckResult[]
  /** Closed cases to learn from. */
  lessons?: readonly Lesson[]
}

export interface Diagnosis {
  facts: Facts
  balance: Balance
  /** Least expected cost to the fix first. */
  proposals: Proposal[]
  /** The next best step: a look, a check, a trial or a mend. */
  plan: Advice
}

/** The one entry point: pair, recipe, path reading, earlier attempts and signs in; suspects and advice out. */
export function diagnose(input: DiagnosisInput): Diagnosis {
  const facts = gatherFacts(input)
  const found = input.reading ? findingEvidence(findingsOf(input.reading, findingContext(input))) : []
  const balance = weigh({
    signs: input.signs,
    facts,
    attempts: input.attempts,
    evidence: [
      ...found,
      ...checkEvidence(input.checks ?? []),
      ...learntEvidence(input.lessons ?? [], (s) => PRIOR[suspectOf(s).prior]),
      ...(input.evidence ?? []),
    ],
    families: input.families,
  })
  const proposals = proposeMends({
    balance,
    facts,
    recipe: input.recipe,
    machine: input.machine,
    filament: input.filament,
    cures: input.cures,
    printMinutes: input.reading ? input.reading.seconds / 60 : undefined,
  })
  const plan = planNext({
    balance,
    proposals,
    signs: input.signs,
    weights: input.weights,
    cannot: input.cannot,
    // what the app did itself needs no asking
    done: [...(input.checks?.map((c) => c.by) ?? []), ...(input.reading ? ['read-paths'] : [])],
    ...(input.reading && {
      print: { minutes: input.reading.seconds / 60, grams: input.reading.filament.mass },
    }),
  })
  return { facts, balance, proposals, plan }
}

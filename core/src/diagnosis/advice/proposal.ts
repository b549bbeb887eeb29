import type { SignId } from '../../knowledge/signs'
import type { SuspectId } from '../../knowledge/suspects'
import type { Reason } from '../../quantity/reason'
import type { Change } from './tried'

/** One thing that can be done next. */
export type Proposal = {
  /** Stable within one picture: suspect and the mend's place in the knowledge. */
  id: string
  suspect: SuspectId
  probability: number
  /** Other suspects that the same change goes for, likelier first. */
  also: SuspectId[]
  /** Chance that it cures each of them, suspect first, if that one is at work. */
  works: number[]
  /** A check found its suspect, and this is what puts right what it found. */
  fits: boolean
  /** The file has values that were hardly meant: without them it is printed before anything else is judged. */
  leads?: true
  /** It costs every later print time or quality. */
  costly: boolean
  /** Its place among the mends of its suspect that are open: 0 is the first choice. */
  choice: number
  why: Reason
  /** Signs to look for afterwards. */
  watch: SignId[]
  /** Expected minutes to the fix by this alone: cost over the chance that it is the cure. */
  expectedMinutes: number
  minutes: number
  /** What is out of the ordinary about it. */
  cautions: Reason[]
} & Change
export type SettingProposal = Extract<Proposal, { kind: 'setting' }>
export const isSettingProposal = (p: Proposal): p is SettingProposal => p.kind === 'setting'

import { suspectOf, type SuspectId } from '../../knowledge/suspects'
import type { LookResult } from '../evidence/looks'
import type { Balance } from '../inference/balance'
import { because } from '../reasons'
import type { Proposal } from './proposal'
import { directionOf } from './tried'

/** Under this a suspect's mend does not stand against a likelier one's. */
const UNLIKELY = 0.1
/** nor under this share of the likelier one's chance. */
const LESS_LIKELY = 0.33
/** A mend is offered when its chance is at least this share of the best one's now; more if it can make worse what was seen. From memory. */
const FAIR = 0.05
const FAIR_IF_HARMFUL = 0.25

/** All suspects that a proposal goes for. */
const goesFor = (p: Proposal): SuspectId[] => [p.suspect, ...p.also]

/**
 * What is worth a print beside the best of them. What was found is not left without anything to do, and the recipe's own
 * value goes with any other mend of its suspects.
 */
export function worthwhile(
  proposals: readonly Proposal[],
  chanceOf: (p: Proposal) => number,
  likelihoodOf: (suspect: SuspectId) => number,
  looks: readonly LookResult[],
): Proposal[] {
  const best = Math.max(0, ...proposals.map(chanceOf))
  const likeliest = (p: Proposal) => Math.max(...goesFor(p).map(likelihoodOf))
  const most = Math.max(0, ...proposals.map(likeliest))
  const found = new Set(looks.map((l) => l.suspect))
  const fair = proposals.filter((p) => {
    const harms = p.cautions.some((c) => c.code === 'worsens')
    const likely = !harms || likeliest(p) >= most * FAIR_IF_HARMFUL
    if (p.leads) return true
    if (goesFor(p).some((s) => found.has(s))) return likely
    // what can make it worse goes for a cause that is itself likely, not only for one that it mends surely
    return likely && chanceOf(p) >= best * (harms ? FAIR_IF_HARMFUL : FAIR)
  })
  const open = new Set(fair.flatMap(goesFor))
  return proposals.filter(
    (p) => fair.includes(p) || (p.why.code === 'print-recipe' && goesFor(p).some((s) => open.has(s))),
  )
}

/** The least expected minutes first, but what a check found before all else, and then a file that was hardly meant so. */
export function inOrder(proposals: readonly Proposal[], balance: Balance): Proposal[] {
  const sorted = [...proposals].sort((a, b) => a.expectedMinutes - b.expectedMinutes)
  const all = recipeFirst(costlyLater(sorted))
  const remedy = (p: Proposal) => isRemedy(balance, p)
  const rest = all.filter((p) => !remedy(p))
  return [...all.filter(remedy), ...rest.filter((p) => p.leads), ...rest.filter((p) => !p.leads)]
}

/** A suspect that a check found is seen to first from this chance of being there on, */
const FOUND = 0.6
/** and from this chance on of having to do with what was seen. From memory. */
const BEARS_ON_IT = 0.15

/** Whether a mend puts right what a check found of a likely suspect: it comes before anything else. */
export function isRemedy({ suspects }: Balance, p: Pick<Proposal, 'fits' | 'suspect'>): boolean {
  const found = p.fits && suspects.find((s) => s.id === p.suspect)
  return !!found && found.present >= FOUND && found.probability >= BEARS_ON_IT
}

/** A mend that costs every later print time or quality does not come before a likelier suspect is seen to by hand. */
export function costlyLater<P extends Pick<Proposal, 'costly' | 'kind' | 'probability'>>(
  sorted: readonly P[],
): P[] {
  const out = [...sorted]
  const [first] = sorted
  if (!first?.costly) return out
  const byHand = sorted.findIndex((p) => p.kind === 'handling' && p.probability >= first.probability)
  if (byHand > 0) out.unshift(...out.splice(byHand, 1))
  return out
}

/** Printing what the recipe has comes before any other mend of the suspects it goes for. */
function recipeFirst(sorted: readonly Proposal[]): Proposal[] {
  const out = [...sorted]
  for (const p of sorted) {
    if (p.why.code !== 'print-recipe') continue
    const own = new Set(goesFor(p))
    const before = out.findIndex((o) => own.has(o.suspect))
    out.splice(out.indexOf(p), 1)
    out.splice(before, 0, p)
  }
  return out
}

/** Never both directions of one setting without saying what decides; an unlikely suspect's gives way. */
export function withoutContradictions(proposals: readonly Proposal[]): Proposal[] {
  const against = (p: Proposal) =>
    p.kind !== 'setting' || directionOf(p) === 0
      ? []
      : proposals.filter((o) => o.kind === 'setting' && o.key === p.key && directionOf(o) === -directionOf(p))
  return proposals.flatMap((p) => {
    const others = against(p)
    if (!others.length) return [p]
    const stronger = others.reduce((m, o) => (o.probability > m.probability ? o : m))
    if (
      p.probability < Math.max(UNLIKELY, LESS_LIKELY * stronger.probability) &&
      stronger.probability > p.probability
    )
      return []
    const left = others.filter((o) => o.probability >= UNLIKELY || o.probability >= p.probability)
    if (!left.length) return [p]
    const by = suspectOf(p.suspect).by
    const decides = by.find((look) => suspectOf(stronger.suspect).by.includes(look)) ?? by[0]
    return [
      { ...p, cautions: [...p.cautions, because('other-way', { suspect: stronger.suspect, by: decides })] },
    ]
  })
}

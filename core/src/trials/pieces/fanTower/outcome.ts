import type { CriterionId } from '../../criteria'
import type { Adoptable, Outcome, OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { gradedResponse } from '../../shared/response'

/** What the fan of plain walls decides. */
const WALLS: readonly CriterionId[] = ['detail', 'surface', 'bonding']
/** What has a fan of its own in a recipe. */
const OWN_FANS = [
  { criterion: 'overhang', key: 'fanOverhang' },
  { criterion: 'bridge', key: 'fanBridge' },
] as const

/** More air holds what hangs and is slender, and bonds less. Common practice, no source. */
const LEANINGS = { overhang: 'rises', bridge: 'rises', detail: 'rises', bonding: 'falls' } as const

const walls = gradedResponse(WALLS, LEANINGS)

/**
 * Three answers from one tower: the fan of walls by what walls show, and those of overhangs and bridges by what each of them
 * shows, never below that of walls.
 */
export const fanOutcome: OutcomeRule = (trials, context) => {
  const out = walls(trials, context)
  const rest = out.adopt.find((a) => a.key === 'fan')?.value ?? context.recipe.fan.value
  const own = OWN_FANS.flatMap(
    ({ criterion, key }): { adopt: Adoptable; best: number; criterion: CriterionId }[] => {
      const found = gradedResponse([criterion], LEANINGS)(trials, context)
      const [best] = found.adopt
      if (!best) return []
      return [{ criterion, best: best.value, adopt: { ...best, key, value: Math.max(rest, best.value) } }]
    },
  )
  return {
    ...out,
    adopt: [...out.adopt, ...own.map((o) => o.adopt)],
    reasons: [
      ...out.reasons,
      ...own.map(({ criterion, adopt, best }) =>
        outcomeReason('own-fan', {
          criterion,
          key: adopt.key,
          value: adopt.value,
          walls: adopt.value > best,
        }),
      ),
    ],
  } satisfies Outcome
}

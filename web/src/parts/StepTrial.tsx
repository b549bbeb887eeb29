import type { PairDetail, PartRecord, PartVersion } from '@verimend/contract'
import type { Layout } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { STEPPED_ON_PART } from '@verimend/core/trials'
import { StepsForm } from '../trials/StepsForm'

/** A trial on the part itself: bands of its height at stepped heat, fan or speed. */
export function StepTrial({
  part,
  version,
  pair,
  layout,
  own,
  height,
}: {
  part: PartRecord
  version: PartVersion
  pair: PairDetail
  layout: Layout
  own: Changes
  /** mm, as it stands. */
  height: number
}) {
  return (
    <StepsForm
      title="Try it in steps on this part"
      about="Bands of its height are printed at stepped values, and read as a trial of this pair."
      choices={STEPPED_ON_PART}
      pair={pair}
      height={height}
      caseId={part.cases.find((c) => c.status === 'open' && c.pairId === pair.id)?.id ?? null}
      planOf={({ heights, ...plan }) => ({
        ...plan,
        onPart: {
          partId: part.id,
          name: part.name,
          version: version.number,
          sha256: version.sha256,
          unit: version.unit,
          layout,
          own,
          ...heights,
        },
      })}
    />
  )
}

import type { CaseDetail, PairDetail } from '@verimend/contract'
import { useLink, usePrints } from '../api/queries'
import { PrintIt } from '../prints/PrintIt'
import { Entry } from './Entry'

/** On a simulated machine: printing the part of a case, or the practice piece, and noting what there is to see. */
export function PrintEntry({ kase, pair }: { kase: CaseDetail; pair: PairDetail }) {
  const link = useLink(pair.machine.id)
  const printed = !!usePrints({ caseId: kase.id }).data?.prints.some((p) => p.kind === 'practice')
  if (!link) return null
  // a path file shows the print it was prepared for; after a change it is another
  const last = kase.files.at(-1)
  // a case that has printed the practice piece goes on with it
  const current = !printed && last?.kept && last.afterAttempt === kase.attempts.length ? last : null
  // another part is not what this case is about, unless it was begun for practice
  if (!current && !link.practice && !printed) return null
  const what = current
    ? ({ kind: 'file', name: current.name, sha256: current.sha256 } as const)
    : ({ kind: 'practice' } as const)
  const print = (
    <PrintIt
      pair={pair}
      what={what}
      label={current ? `Print ${current.name}` : `Print the practice piece, recipe version ${pair.current}`}
      caseId={kase.id}
      where={{ caseId: kase.id }}
    />
  )
  return kase.attempts.length ? (
    print
  ) : (
    <Entry kind="print" title={`Print it on ${pair.machine.machine.name}`}>
      {print}
    </Entry>
  )
}

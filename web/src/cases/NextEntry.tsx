import type { CaseDetail, MendChoice, PairDetail } from '@verimend/contract'
import {
  currentFile,
  movedOutside,
  offerSet,
  signsThat,
  toTakeBack,
  type Diagnosis,
} from '@verimend/core/casework'
import type { CostWeights } from '@verimend/core/diagnosis'
import { changeText, listed } from '@verimend/core/words'
import { Button } from 'antd'
import { clsx } from 'clsx'
import { memo, useMemo, useState } from 'react'
import { ApiProblem } from '../api/http'
import { Waiting } from '../components/states'
import ui from '../components/ui.module.css'
import { useVersion, type useCaseChange } from '../api/queries'
import { AdvicePanel } from './AdvicePanel'
import { Entry } from './Entry'
import { CheckNotes, NextStep } from './NextStep'
import { SetPanel } from './SetPanel'
import { MeasuredInCase } from '../measure/MeasureIt'
import { usePieceCosts } from '../trials/usePieceCosts'
import type { CaseActions } from './useCaseActions'

/** The recipe was changed outside the case: that may be what is tried next. */
function MovedElsewhere({
  kase,
  pair,
  onTakeUp,
}: {
  kase: CaseDetail
  pair: PairDetail
  onTakeUp: (base: number) => void
}) {
  const last = kase.attempts.at(-1)?.toVersion ?? kase.startVersion
  const { data: before } = useVersion(pair.id, last === pair.current ? null : last)
  const [left, setLeft] = useState<number | null>(null)
  const moved = before ? movedOutside(before.values, pair.version.values) : []
  if (!moved.length || left === pair.current) return null
  return (
    <div className={clsx(ui.notice)} role="group" aria-label="Changed outside this case">
      <p>
        Since version {last} the recipe was changed outside this case:{' '}
        <strong>{listed(moved.map((m) => changeText({ kind: 'setting', ...m })))}</strong>. Is that what you
        want to try on this part?
      </p>
      <div className={ui.row}>
        <Button onClick={() => onTakeUp(pair.current)}>Count it as an attempt</Button>
        <Button type="text" onClick={() => setLeft(pair.current)}>
          Leave it out
        </Button>
      </div>
    </div>
  )
}

/** What to do next: the step with the least expected cost, a set of prints, and the mends to choose from. */
export const NextEntry = memo(function NextEntry({
  kase,
  pair,
  diagnosis,
  weights,
  onWeights,
  actions,
  busy,
  error,
  onBegin,
}: {
  kase: CaseDetail
  pair: PairDetail
  /** Undefined while the first is on its way. */
  diagnosis: Diagnosis | undefined
  weights: CostWeights
  onWeights: (weights: CostWeights) => void
  actions: CaseActions
  /** An attempt is being begun, or could not be. */
  busy: boolean
  error: unknown
  onBegin: ReturnType<typeof useCaseChange<MendChoice[]>>['mutate']
}) {
  const plan = diagnosis?.plan
  const trialAhead = !!plan && [plan.next, ...plan.others].some((s) => s?.kind === 'trial')
  const costs = usePieceCosts(trialAhead ? pair : undefined)
  const [wanted, setWanted] = useState<string | null>(null)
  const seen = signsThat('present', kase.signs).length > 0
  // a change that made it worse is taken back, or kept on purpose, before anything else is tried
  const [kept, setKept] = useState<number | null>(null)
  const last = toTakeBack(kase.attempts, pair.version.number)
  const worse = last?.number === kept ? null : last
  const offer = useMemo(
    () =>
      seen && diagnosis ? offerSet(diagnosis.balance, diagnosis.proposals, diagnosis.plan, kase.signs) : null,
    [seen, diagnosis, kase.signs],
  )
  return (
    <Entry kind="next" title={kase.attempts.length ? 'What to try next' : 'What to try first'}>
      {!diagnosis ? (
        <Waiting tall={seen ? 420 : 60} />
      ) : (
        <>
          {worse && (
            <div className={clsx(ui.notice, ui.caution)} role="group" aria-label="Take a change back">
              <p>
                Attempt {worse.number} made it worse, and its change is still in the recipe:{' '}
                <strong>{listed(worse.mends.map(changeText))}</strong>. Take it back before you try anything
                else.
              </p>
              <div className={ui.row}>
                <Button type="primary" onClick={() => actions.takeBack(worse.number)}>
                  Take it back
                </Button>
                <Button onClick={() => setKept(worse.number)}>Keep it and go on</Button>
              </div>
            </div>
          )}
          {seen && !worse && <MovedElsewhere kase={kase} pair={pair} onTakeUp={actions.takeUp} />}
          {seen && !worse && (
            <NextStep
              advice={diagnosis.plan}
              pair={pair}
              costs={costs}
              cannot={kase.cannot}
              onSign={actions.mark}
              onLook={actions.noteLook}
              onCannot={actions.setCannot}
              onMend={setWanted}
              onFile={actions.addFile}
              weights={weights}
              onWeights={onWeights}
            />
          )}
          <SetPanel caseId={kase.id} sets={kase.sets} offer={worse ? null : offer} />
          <MeasuredInCase pair={pair} caseId={kase.id} />
          <CheckNotes checks={kase.checks} onTakeBack={actions.noteLook} />
          {!worse && (
            <AdvicePanel
              key={wanted ?? 'first'}
              wanted={wanted}
              partId={kase.partId}
              proposals={seen ? diagnosis.proposals : []}
              blocked={seen ? diagnosis.blocked : []}
              machine={pair.machine.machine}
              filament={pair.filament.filament}
              printSeconds={currentFile(kase).file?.reading.seconds ?? null}
              busy={busy}
              error={error}
              onAccept={(mends) =>
                onBegin(mends, {
                  onError: (e) => e instanceof ApiProblem && e.problem.status === 409 && actions.refetch(),
                })
              }
            />
          )}
        </>
      )}
    </Entry>
  )
})

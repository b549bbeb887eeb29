import type { Attempt, CaseDetail, PairDetail } from '@verimend/contract'
import { returnsOf, signsThat } from '@verimend/core/casework'
import { useDeferredValue, useMemo, useRef } from 'react'
import { ApiProblem } from '../api/http'
import { useVersions } from '../api/queries'
import { Problem } from '../components/states'
import { PhotoStrip } from '../photos/PhotoStrip'
import { AttemptEntry } from './AttemptEntry'
import { BalancePanel } from './BalancePanel'
import { CloseEntry, ClosedEntry } from './CloseEntry'
import { CompareAttempts } from './CompareAttempts'
import { Entry } from './Entry'
import { NextEntry } from './NextEntry'
import { NowLine } from './NowLine'
import { OutcomeForm } from './OutcomeForm'
import { SignsEntry } from './SignsEntry'
import { PrintEntry } from './PrintEntry'
import { ToldEntry } from './ToldEntry'
import { useAttempts, useCaseActions } from './useCaseActions'
import { useCostWeights } from './useCostWeights'
import { useDiagnosis } from './useDiagnosis'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import { later } from '../components/later'
import ui from '../components/ui.module.css'
import EntryStyles from './Entry.module.css'
import styles from './Notebook.module.css'

const CarryOut = later(() => import('./CarryOut'), { what: 'The changed file' })

/** A case, read downwards: seen, told, tried, and what comes next; the balance beside it. */
export function Notebook({ kase, pair }: { kase: CaseDetail; pair: PairDetail }) {
  const { id, attempts } = kase
  const [weights, setWeights] = useCostWeights()
  const diagnosis = useDiagnosis(kase, pair, weights)
  const { actions, failed } = useCaseActions(kase)
  const { begin, record, close } = useAttempts(id, pair, kase.rev)
  const seen = signsThat('present', kase.signs).length
  const closed = kase.status === 'closed'
  const signsAnswered = Object.keys(kase.signs).length > 0
  // an answer shows at once where it was given; the rest of the page follows in slices
  const late = useDeferredValue(kase)
  const waiting = attempts.find((a) => a.recordedAt === null)
  const idle = !closed && !waiting
  const returns = useMemo(() => returnsOf(attempts, kase.signs), [attempts, kase.signs])
  const versions = useVersions(pair.id, attempts.length > 0).data
  const changesOf = ({ fromVersion, toVersion }: Attempt) =>
    toVersion === fromVersion ? undefined : versions?.find((v) => v.number === toVersion)?.changes
  const entries = useRef<HTMLDivElement>(null)
  return (
    <>
      <Boundary what="What comes next">
        <NowLine
          kase={kase}
          waiting={waiting}
          diagnosis={diagnosis.data}
          version={pair.version.number}
          within={entries}
        />
      </Boundary>
      <div className={styles.notebook}>
        <div className={styles.entries} ref={entries}>
          {!!failed && <Problem error={failed} again={actions.refetch} />}
          {idle && attempts.length === 0 && <PrintEntry kase={late} pair={pair} />}
          <Boundary what="The list of signs">
            <SignsEntry
              signs={kase.signs}
              place={kase.place}
              began={attempts[0]?.signsBefore}
              editable={idle}
              onMark={actions.mark}
            />
          </Boundary>
          <Entry kind="photos" title="Photos">
            <Boundary what="The photos">
              <PhotoStrip caseId={id} photos={late.photos} attempts={attempts} />
            </Boundary>
          </Entry>
          <Boundary what="What was told of the print">
            <ToldEntry
              id={id}
              partId={kase.partId}
              about={kase.about}
              longest={late.longest}
              files={late.files}
              marks={late.marks}
              attempts={attempts}
              closed={closed}
              pair={pair}
              actions={actions}
            />
          </Boundary>
          {attempts.map((a) => (
            <Boundary key={a.number} what="This attempt">
              <AttemptEntry
                attempt={a}
                back={returns.get(a.number)}
                changes={changesOf(a)}
                filament={pair.filament.filament}
              >
                {a === waiting && !closed && <PrintEntry kase={late} pair={pair} />}
                {a === waiting && !closed && (
                  <CarryOut kase={late} attempt={a} pair={pair} actions={actions} />
                )}
                {a === waiting && !closed && (
                  <Boundary what="The outcome">
                    <OutcomeForm
                      kase={kase}
                      attempt={a}
                      busy={record.isPending}
                      error={record.error}
                      onRecord={(v, kept) =>
                        record.mutate(
                          { number: a.number, ...v },
                          // what stands now is shown beside what was answered
                          { onSuccess: kept, onError: (e) => e instanceof ApiProblem && actions.refetch() },
                        )
                      }
                      onWithdraw={() => actions.withdraw(a.number)}
                    />
                  </Boundary>
                )}
              </AttemptEntry>
            </Boundary>
          ))}
          {idle && (seen > 0 || attempts.length === 0) && (
            <Boundary what="The advice">
              <NextEntry
                kase={late}
                pair={pair}
                diagnosis={diagnosis.data}
                weights={weights}
                onWeights={setWeights}
                actions={actions}
                busy={begin.isPending}
                error={begin.error}
                onBegin={begin.mutate}
              />
            </Boundary>
          )}
          {idle &&
            (attempts.length > 0 || pair.current !== kase.startVersion || (signsAnswered && !seen)) && (
              <Boundary what="Closing the case">
                <CloseEntry
                  kase={late}
                  pair={pair}
                  solved={seen === 0}
                  busy={close.isPending}
                  error={close.error}
                  onClose={close.mutate}
                />
              </Boundary>
            )}
          {attempts.some((a) => a.recordedAt) && (
            <details className={EntryStyles.entry} data-entry="compare">
              <summary>Compare any two prints of this case</summary>
              <Boundary key={kase.rev} what="The comparison">
                <CompareAttempts kase={kase} pair={pair} />
              </Boundary>
            </details>
          )}
          {closed && <ClosedEntry kase={kase} actions={actions} />}
        </div>
        <aside className={styles.side}>
          {closed && seen === 0 ? (
            <section className={clsx(ui.sheet, ui.stack)} aria-label="The balance">
              <h2>The balance</h2>
              <p className={ui.faint}>Nothing is left to explain.</p>
            </section>
          ) : (
            <Boundary what="The balance">
              <BalancePanel diagnosis={diagnosis} />
            </Boundary>
          )}
        </aside>
      </div>
    </>
  )
}

import { Button, Input, Select } from 'antd'
import type { PairDetail, Trial } from '@verimend/contract'
import { PIECES } from '@verimend/core/trials'
import { duration, quantity } from '@verimend/core/quantity'
import { useEffect } from 'react'
import { useNavigate, useParams } from 'react-router'
import { api } from '../api/client'
import { usePair, useTrial, useTrialChange } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { Loaded, Problem, Waiting } from '../components/states'
import { useTyped } from '../components/useTyped'
import { PrintIt } from '../prints/PrintIt'
import { Simulated } from '../prints/Simulated'
import { OutcomePanel } from './OutcomePanel'
import { PieceDrawing } from './PieceDrawing'
import { isRead, progressOf, useOutcomes } from './useOutcomes'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import { madeOf } from './madeOf'
import ui from '../components/ui.module.css'
import trialsStyles from './trials.module.css'

export default function TrialPage() {
  const { id = '' } = useParams()
  const query = useTrial(id)
  const pair = usePair(query.data?.pairId)
  const { pairId, choose } = useCurrentPair()
  const own = query.data?.pairId
  useEffect(() => {
    if (own && own !== pairId) choose(own)
  }, [own, pairId, choose])
  return (
    <Loaded query={query}>
      {(t) => <Loaded query={pair}>{(p) => <TrialSheet t={t} pair={p} />}</Loaded>}
    </Loaded>
  )
}

/** A trial: its file, its places with their values, what was read, and what comes of it. */
function TrialSheet({ t, pair }: { t: Trial; pair: PairDetail }) {
  const d = PIECES[t.plan.piece]
  const navigate = useNavigate()
  const outcomes = useOutcomes(pair)
  const outcome = outcomes.data?.[t.number]
  const { read, of } = progressOf(t)
  const update = useTrialChange(t.id, (v: { resolution: number; note: string }) =>
    api.trials.update(t.id, v.resolution, v.note),
  )
  const [note, setNote, leaveNote] = useTyped(t.note, (text) =>
    update.mutate({ resolution: t.resolution, note: text }),
  )
  const measured = t.cells.some((c) => c.measure)
  return (
    <>
      <div className={ui.pagehead}>
        <h1>
          {d.name}
          {madeOf(t.plan)}, trial {t.number}
        </h1>
        {t.simulated && <Simulated />}
        {t.adoptedVersion !== null && (
          <span className={clsx(ui.tag, ui.good)}>in version {t.adoptedVersion}</span>
        )}
      </div>
      <div className={trialsStyles.trialplan}>
        <div className={ui.stack}>
          <section className={clsx(ui.sheet, ui.stack)} aria-label="Print it">
            <h2>Print it</h2>
            <p className={ui.faint}>
              About {duration(t.seconds)} and {quantity(t.grams, 'g', 1)}, from version {t.version} of the
              recipe.
            </p>
            <div className={ui.row}>
              <Button href={api.trials.href(t.id)} download type={read ? 'default' : 'primary'}>
                G-code
              </Button>
              <Button
                type={read ? (read < of ? 'primary' : 'default') : 'default'}
                onClick={() => void navigate(`/trials/${t.id}/read`)}
              >
                {read === 0
                  ? 'Read the printed piece'
                  : read < of
                    ? `Go on reading: ${of - read} left`
                    : 'Look at the readings again'}
              </Button>
            </div>
            <Boundary what="Printing from here">
              <PrintIt
                pair={pair}
                what={{ kind: 'trial', trialId: t.id }}
                label={`Print it on ${pair.machine.machine.name}`}
                caseId={t.caseId}
                where={{ trialId: t.id }}
              />
            </Boundary>
            {measured && (
              <label className={clsx(ui.row, ui.small)}>
                Step of the display
                <Select
                  size="small"
                  aria-label="Step of the caliper’s or scale’s display"
                  value={t.resolution}
                  onChange={(resolution: number) => update.mutate({ resolution, note: t.note })}
                  options={[0.001, 0.005, 0.01, 0.02, 0.05, 0.1].map((v) => ({ value: v, label: `${v}` }))}
                  style={{ width: 90 }}
                />
              </label>
            )}
            <Input.TextArea
              aria-label="Note on the trial"
              placeholder="Note: what was different that day"
              rows={1}
              maxLength={2000}
              value={note}
              onChange={(e) => setNote(e.target.value)}
              onBlur={leaveNote}
            />
            {!!update.error && <Problem error={update.error} />}
          </section>
          {outcomes.error ? (
            <Problem error={outcomes.error} />
          ) : outcome ? (
            <Boundary what="What comes of it">
              <OutcomePanel t={t} pair={pair} outcome={outcome} read={read} />
            </Boundary>
          ) : (
            <Waiting tall={300} />
          )}
        </div>
        <section className={clsx(ui.sheet, ui.stack)} aria-label="The piece">
          <Boundary what="The drawing of the piece">
            <PieceDrawing
              cells={t.cells}
              view={t.view}
              done={(id) => isRead(t, id)}
              onChoose={(id) => void navigate(`/trials/${t.id}/read?at=${id}`)}
            />
          </Boundary>
          <p className={clsx(ui.faint, ui.small)}>
            {read} of {of} read.
            {t.cells.some((c) => c.marks) && ' Count the ribs or ticks to find a place on the print.'}
          </p>
        </section>
      </div>
    </>
  )
}

import { Button, Checkbox, Input, Select } from 'antd'
import type { PairDetail, Trial } from '@verimend/contract'
import {
  PIECES,
  digitsOf,
  duration,
  isSettingKey,
  quantity,
  settingOf,
  variedOf,
  type NumberSetting,
  type Outcome,
  type SettingKey,
} from '@verimend/core'
import { useEffect, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { ApiProblem, api } from '../api/client'
import { usePair, useTrial, useTrialChange } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { Loaded, Problem } from '../parts/Problem'
import { FitChart } from './FitChart'
import { PieceDrawing } from './PieceDrawing'
import { isRead, progressOf, useOutcome } from './useOutcome'

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
  const outcome = useOutcome(t, pair)
  const { read, of } = progressOf(t)
  const update = useTrialChange(t.id, (v: { resolution: number; note: string }) =>
    api.trials.update(t.id, v.resolution, v.note),
  )
  const [note, setNote] = useState(t.note)
  const measured = t.cells.some((c) => c.measure)
  return (
    <>
      <div className="pagehead">
        <h1>
          {d.name}, trial {t.number}
        </h1>
        {t.adoptedVersion !== null && <span className="tag good">in version {t.adoptedVersion}</span>}
      </div>
      <div className="trialplan">
        <div className="stack">
          <section className="sheet stack" aria-label="Print it">
            <h2>Print it</h2>
            <p className="faint">
              About {duration(t.seconds)} and {quantity(t.grams, 'g', 1)}, from version {t.version} of the
              recipe.
            </p>
            <div className="row">
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
            {measured && (
              <label className="row small">
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
              onBlur={() => note !== t.note && update.mutate({ resolution: t.resolution, note })}
            />
            {!!update.error && <Problem error={update.error} />}
          </section>
          <OutcomePanel t={t} pair={pair} outcome={outcome} read={read} />
        </div>
        <section className="sheet stack" aria-label="The piece">
          <PieceDrawing
            cells={t.cells}
            view={t.view}
            done={(id) => isRead(t, id)}
            onChoose={(id) => void navigate(`/trials/${t.id}/read?at=${id}`)}
          />
          <p className="faint small">
            {read} of {of} read.
            {t.cells.some((c) => c.marks) && ' Count the ribs or ticks to find a place on the print.'}
          </p>
        </section>
      </div>
    </>
  )
}

function OutcomePanel({
  t,
  pair,
  outcome: o,
  read,
}: {
  t: Trial
  pair: PairDetail
  outcome: Outcome
  read: number
}) {
  const navigate = useNavigate()
  const [left, setLeft] = useState<SettingKey[]>([])
  const adopt = useTrialChange(t.id, (keys: SettingKey[]) => api.trials.adopt(t.id, pair.current, keys))
  if (!read)
    return (
      <section className="sheet" aria-label="What comes of it">
        <h2>What comes of it</h2>
        <p className="faint">Print the piece, look at it place by place, and the fit appears here.</p>
      </section>
    )
  const key = o.key === 'meltRate' ? 'meltCap' : o.key
  const inUse = key && isSettingKey(key) ? Number(pair.version.values[key].value) : null
  const chosen = o.adopt.filter((a) => !left.includes(a.key))
  const conflict = adopt.error instanceof ApiProblem && adopt.error.problem.status === 409
  return (
    <section className="sheet stack" aria-label="What comes of it">
      <h2>What comes of it</h2>
      {o.words.map((w, i) => (
        <p
          key={w}
          className={
            i === 0 ? (o.kind === 'found' ? 'answer' : o.kind === 'flat' ? '' : 'answer caution') : 'faint'
          }
        >
          {w}
        </p>
      ))}
      {o.drift && <p className="notice caution">{o.drift}</p>}
      <FitChart outcome={o} inUse={inUse} newest={t.number} />
      {o.r2 !== null && o.sd !== null && o.scale.max > 0 && (
        <p className="faint small">
          The fit explains {Math.max(0, Math.round(o.r2 * 100))} % of the differences; readings scatter by{' '}
          {o.sd.toFixed(2)} round it.
        </p>
      )}
      {o.adopt.length > 0 && (
        <ul className="plainlist">
          {o.adopt.map((a) => {
            const s = settingOf(a.key) as NumberSetting
            const now = Number(pair.version.values[a.key].value)
            return (
              <li key={a.key} data-adopt={a.key}>
                <Checkbox
                  checked={!left.includes(a.key)}
                  onChange={(e) =>
                    setLeft((l) => (e.target.checked ? l.filter((k) => k !== a.key) : [...l, a.key]))
                  }
                >
                  {s.label} <span className="figure faint">{quantity(now, s.unit, digitsOf(s))}</span> →{' '}
                  <strong className="figure">{quantity(a.value, s.unit, digitsOf(s))}</strong>{' '}
                  <span className="figure faint">± {a.plusMinus}</span>
                </Checkbox>
              </li>
            )
          })}
        </ul>
      )}
      {!!adopt.error && <Problem error={adopt.error} />}
      <div className="row">
        {o.adopt.length > 0 && (
          <Button
            type="primary"
            loading={adopt.isPending}
            disabled={!chosen.length || conflict}
            onClick={() => adopt.mutate(chosen.map((a) => a.key))}
          >
            Take into the recipe
          </Button>
        )}
        {o.next && (
          <Button
            type={o.adopt.length ? 'default' : 'primary'}
            onClick={() =>
              void navigate(
                `/trials/new/${t.plan.piece}?from=${o.next!.from}&to=${o.next!.to}&count=${o.next!.count}`,
              )
            }
          >
            Plan the next: {o.next.from} to {o.next.to} {variedOf(o.next.key).unit}
          </Button>
        )}
        {t.adoptedVersion !== null && <Link to="/recipes">See the recipe</Link>}
      </div>
    </section>
  )
}

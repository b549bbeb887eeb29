import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, InputNumber, Segmented, Select } from 'antd'
import type { PairDetail, Trial } from '@verimend/contract'
import {
  FIRST_LOOK,
  JOINT_SHAPES,
  JOINT_WORDS,
  PIECES,
  isPiece,
  proposeSteps,
  variedOf,
  type Extent,
  type JointShape,
  type KnownBest,
  type Outcome,
  type PieceId,
  type PiecePlan,
  type Steps,
  type VariedKey,
} from '@verimend/core/trials'
import { duration, figure, quantity } from '@verimend/core/quantity'
import { isNumberKey, roundTo, settingOf } from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { usePair, useTrials } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { Empty, Loaded, Problem, Waiting } from '../components/states'
import { ofThisTab, useKeptState } from '../components/useKeptState'
import { onBench } from '../pairs/onBench'
import { compute } from '../workers/compute'
import { PieceDrawing } from './PieceDrawing'
import { PieceViews } from './PieceViews'
import { useOutcomes } from './useOutcomes'
import { usePiece } from './usePiece'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import trialsStyles from './trials.module.css'
import styles from './PlanTrial.module.css'
import { newId } from '../api/ids'

/** A test piece for the pair: what is stepped, how far, at what cost; drawn before it is printed. */
export default function PlanTrial() {
  const { piece = '' } = useParams()
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId ?? undefined)
  if (!isPiece(piece))
    return <Empty action={<Link to="/trials">To the trials</Link>}>There is no such test piece.</Empty>
  if (!pairId) return <Empty>Choose a filament and a machine at the top: a trial is always of a pair.</Empty>
  return (
    <Loaded query={pair}>{(p) => <PlanWithEarlier key={`${p.id}${piece}`} piece={piece} pair={p} />}</Loaded>
  )
}

/** Plans round what earlier trials of the pair found. */
function PlanWithEarlier({ piece, pair }: { piece: PieceId; pair: PairDetail }) {
  const trials = useTrials(pair.id)
  const { data: outcomes, error } = useOutcomes(pair)
  if (error) return <Problem error={error} />
  return (
    <Loaded query={trials}>
      {(list) =>
        outcomes ? (
          <Plan piece={piece} pair={pair} knownBest={(key) => knownBest(list, outcomes, piece, key)} />
        ) : (
          <Waiting tall={520} />
        )
      }
    </Loaded>
  )
}

/** The best an earlier trial of the same kind found. */
function knownBest(
  trials: readonly Trial[],
  outcomes: Record<number, Outcome>,
  piece: PieceId,
  key: VariedKey,
): KnownBest | null {
  for (const t of trials.filter((x) => x.plan.piece === piece && x.plan.steps.key === key)) {
    const o = outcomes[t.number]
    if (o?.kind === 'found' && o.best !== null && o.low !== null && o.high !== null && o.key === key)
      return { best: o.best, low: o.low, high: o.high, trial: t.number }
  }
  return null
}

/** What is chosen on the screen. */
interface Draft {
  steps: Steps
  across: Steps | null
  extent: Extent
  budget: number | null
  joints: readonly JointShape[]
}

function Plan({
  piece,
  pair,
  knownBest,
}: {
  piece: PieceId
  pair: PairDetail
  knownBest: (key: VariedKey) => KnownBest | null
}) {
  const d = PIECES[piece]
  const [search] = useSearchParams()
  const bench = useMemo(() => onBench(pair), [pair])
  const begin = (key: VariedKey) => proposeSteps(bench, piece, key, knownBest(key))
  // "print the next one from … to …" comes by the address
  const asked = (name: string) => (search.has(name) ? Number(search.get(name)) : NaN)
  const [draft, setDraft, forget] = useKeptState<Draft>(
    `draft.trial.${pair.id}.${pair.current}.${piece}?${search}`,
    // made once: what was changed stays, whatever is found meanwhile
    useState(() => {
      const { steps, across } = begin(d.keys[0])
      const wanted = (search.get('joints') ?? '').split(',')
      const known = JOINT_SHAPES.filter((shape) => wanted.includes(shape))
      return {
        steps: {
          ...steps,
          ...(Number.isFinite(asked('from')) && { from: asked('from') }),
          ...(Number.isFinite(asked('to')) && { to: asked('to') }),
          ...(Number.isFinite(asked('count')) && { count: asked('count') }),
        },
        across: across ?? null,
        extent: 'usual' as const,
        budget: null,
        joints: known.length ? known : (['round-upright'] as const),
      }
    })[0],
    ofThisTab,
  )
  const { steps, across, extent, budget, joints } = draft
  const change = (some: Partial<Draft>) => setDraft((before) => ({ ...before, ...some }))
  const setCount = (count: number) => setDraft((before) => ({ ...before, steps: { ...before.steps, count } }))
  const [proposal, setProposal] = useState(() => begin(steps.key))
  const plan: PiecePlan = {
    piece,
    steps,
    ...(across && { across }),
    ...(extent === 'quick' && { extent }),
    ...(piece === 'joint-ladder' && { joints: [...joints] }),
  }
  const { answer, layer } = usePiece(pair, plan)
  const client = useQueryClient()
  const navigate = useNavigate()
  const [id] = useState(() => newId())
  const create = useMutation({
    mutationFn: () => api.trials.create(id, pair.id, plan, search.get('case')),
    onSuccess: (t) => {
      forget()
      client.setQueryData(keys.trials.one(t.id), t)
      void changed.trial(client, pair.id)
      void navigate(`/trials/${t.id}`, { replace: true })
    },
  })
  const fit = useMutation({
    mutationFn: (minutes: number) =>
      compute('countWithin', {
        pair: bench,
        plan: { ...plan, steps: { ...steps, count: d.counts.max } },
        minutes,
      }),
    onSuccess: setCount,
  })
  const sized = useMutation({
    mutationFn: (to: Extent) => compute('planOfExtent', { pair: bench, plan, extent: to }),
    onSuccess: (p) => setCount(p.steps.count),
  })
  const left = pair.filament.filament.weightLeft
  const ready = answer?.ok ? answer : null
  const fixed = d.counts.max === 1 || piece === 'layer-time-pair'
  return (
    <>
      <div className={ui.pagehead}>
        <h1>{d.name}</h1>
      </div>
      <p className={ui.faint} style={{ maxWidth: 720, marginBottom: 14 }}>
        {d.what}
      </p>
      <div className={trialsStyles.trialplan}>
        <section className={clsx(ui.sheet, ui.stack)} aria-label="What is stepped">
          {d.keys.length > 1 && (
            <div className={ui.tablewrap}>
              <Segmented
                aria-label="What is stepped"
                value={steps.key}
                onChange={(k) => {
                  const next = begin(k as VariedKey)
                  setProposal(next)
                  change({ steps: next.steps })
                }}
                options={d.keys.map((k) => ({ value: k, label: variedOf(k).label }))}
              />
            </div>
          )}
          {!fixed && (
            <>
              <StepFields
                label={variedOf(steps.key).label}
                steps={steps}
                onChange={(steps) => change({ steps })}
                counts={d.counts}
                place={d.place}
              />
              <p className={clsx(ui.faint, ui.small)}>{say(proposal.reason)}</p>
              <Segmented<Extent>
                aria-label="How much of it"
                value={extent}
                disabled={sized.isPending}
                onChange={(v) => {
                  change({ extent: v })
                  sized.mutate(v)
                }}
                options={[
                  { value: 'quick', label: 'First look' },
                  { value: 'usual', label: 'As usual' },
                  { value: 'thorough', label: 'Thorough' },
                ]}
              />
              {extent === 'quick' && ready && ready.reading.seconds > FIRST_LOOK * 60 && (
                <p className={clsx(ui.faint, ui.small)}>
                  With the fewest {d.places} it still takes longer than {FIRST_LOOK} min on this pair.
                </p>
              )}
              <div className={ui.row}>
                <span className={ui.small}>At most</span>
                <InputNumber
                  aria-label="Time budget, min"
                  min={5}
                  max={600}
                  value={budget}
                  onChange={(budget) => change({ budget })}
                  suffix="min"
                  style={{ width: 110 }}
                />
                <Button
                  size="small"
                  disabled={!budget}
                  loading={fit.isPending}
                  onClick={() => budget && fit.mutate(budget)}
                >
                  As many as fit
                </Button>
              </div>
            </>
          )}
          {piece === 'joint-ladder' && (
            <fieldset className={styles.stepfields}>
              <legend className={ui.small}>Kinds of joint</legend>
              <Checkbox.Group
                aria-label="Kinds of joint"
                value={[...joints]}
                // one stays chosen, and they stand in one order
                onChange={(v) => v.length && change({ joints: JOINT_SHAPES.filter((s) => v.includes(s)) })}
                options={JOINT_SHAPES.map((s) => ({ value: s, label: JOINT_WORDS[s] }))}
              />
            </fieldset>
          )}
          {piece === 'flow-box' && across && (
            <div className={ui.row}>
              <span className={ui.small}>Walls of the box</span>
              <Segmented
                aria-label="Walls of the box"
                value={across.from}
                onChange={(v) => change({ across: { ...across, from: Number(v), to: Number(v) } })}
                options={[1, 2, 3, 4]}
              />
            </div>
          )}
          {d.across.length > 0 && piece !== 'flow-box' && (
            <>
              <Checkbox
                checked={across !== null}
                onChange={(e) =>
                  change({
                    across: e.target.checked ? (proposal.across ?? usualAcross(pair, d.across[0])) : null,
                  })
                }
              >
                Step a second thing across
              </Checkbox>
              {across && (
                <>
                  {d.across.length > 1 && (
                    <Select
                      aria-label="The second thing"
                      value={across.key}
                      onChange={(k) => change({ across: usualAcross(pair, k) })}
                      options={d.across
                        .filter((k) => k !== steps.key)
                        .map((k) => ({ value: k, label: variedOf(k).label }))}
                      style={{ width: 220 }}
                    />
                  )}
                  <StepFields
                    label={variedOf(across.key).label}
                    steps={across}
                    onChange={(across) => change({ across })}
                    counts={{ min: 1, max: 3 }}
                    place="row"
                  />
                </>
              )}
            </>
          )}
          {!fixed && <hr />}
          {!answer && <p className={ui.faint}>Writing the piece …</p>}
          {answer && !answer.ok && (
            <p className={clsx(ui.notice, ui.fault)} role="alert">
              {answer.message}
            </p>
          )}
          {ready && (
            <>
              <p>
                <strong className={ui.figure}>{duration(ready.reading.seconds)}</strong> without heating,{' '}
                <strong className={ui.figure}>{quantity(ready.reading.filament.mass, 'g', 1)}</strong>
                {left !== null && (
                  <span className={left < ready.reading.filament.mass ? ui.fault : ui.faint}>
                    {' '}
                    of {figure(left, 0)} g left on the roll
                  </span>
                )}
                .
              </p>
              <p className={clsx(ui.faint, ui.small)}>
                Written from version {pair.version.number} of the recipe, within what{' '}
                {pair.machine.machine.name} can do.
              </p>
            </>
          )}
          {!!create.error && <Problem error={create.error} />}
          <div className={ui.row}>
            <Button
              type="primary"
              disabled={!ready}
              loading={create.isPending}
              onClick={() => create.mutate()}
            >
              Make this trial
            </Button>
            <Link to="/trials">Back</Link>
          </div>
        </section>
        <section className={clsx(ui.sheet, ui.stack)} aria-label="The piece">
          {ready ? (
            <Boundary what="The drawing of the piece">
              <PieceDrawing cells={ready.cells} view={ready.view} />
            </Boundary>
          ) : (
            <Waiting tall={300} />
          )}
        </section>
      </div>
      {ready && (
        <Boundary what="The paths of the piece">
          <PieceViews pair={pair} name={d.name} reading={ready.reading} layer={layer} />
        </Boundary>
      )}
    </>
  )
}

/** A usual pair of levels for what is stepped across. */
function usualAcross(pair: PairDetail, key: VariedKey): Steps {
  const now = isNumberKey(key) ? pair.version.values[key].value : 1
  const [from, to] =
    key === 'wipe' ? [0, pair.nozzle] : key === 'flowOuter' ? [95, 100] : [now * 0.7, now * 1.3]
  const round = (v: number) => (isNumberKey(key) ? roundTo(settingOf(key), v) : v)
  return { key, from: round(from), to: round(to), count: 2 }
}

function StepFields({
  label,
  steps,
  onChange,
  counts,
  place,
}: {
  label: string
  steps: Steps
  onChange: (s: Steps) => void
  counts: { min: number; max: number }
  place: string
}) {
  const { unit, digits } = variedOf(steps.key)
  const field = (end: 'from' | 'to', name: string) => (
    <label className={styles.stepfield}>
      <span className={ui.small}>{name}</span>
      <InputNumber
        aria-label={`${label}, ${name}`}
        value={steps[end]}
        step={isNumberKey(steps.key) ? settingOf(steps.key).step : 10 ** -digits}
        onChange={(v) => v !== null && onChange({ ...steps, [end]: v })}
        suffix={unit}
        style={{ width: 128 }}
      />
    </label>
  )
  return (
    <fieldset className={styles.stepfields}>
      <legend className={ui.small}>{label}</legend>
      {field('from', 'first')}
      {field('to', 'last')}
      <label className={styles.stepfield}>
        <span className={ui.small}>how many</span>
        <InputNumber
          aria-label={`How many ${place}s`}
          value={steps.count}
          min={counts.min}
          max={counts.max}
          precision={0}
          onChange={(v) => v !== null && onChange({ ...steps, count: v })}
          style={{ width: 76 }}
        />
      </label>
    </fieldset>
  )
}

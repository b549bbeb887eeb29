import { Button, Slider } from 'antd'
import {
  USUAL_WEIGHTS,
  because,
  type Advice,
  type AdvisedStep,
  type CostWeights,
  type LookResult,
} from '@verimend/core/diagnosis'
import { isPiece, type PieceCost, type PieceId } from '@verimend/core/trials'
import {
  procedureOf,
  signOf,
  suspectOf,
  tellOf,
  type LookId,
  type ProcedureId,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import { listed, lookName, say, signName, stepName, suspectName } from '@verimend/core/words'
import { quantity } from '@verimend/core/quantity'
import { useMemo, useState } from 'react'
import type { LookAnswers } from '../api/client'
import { Answers, type Answer } from '../components/Answers'
import type { PairDetail } from '@verimend/contract'
import { MeasureIt } from '../measure/MeasureIt'
import { Observe } from '../prints/Observe'
import { measuredBy } from '../measure/measuredBy'
import type { CaseActions } from './useCaseActions'
import { Link, useParams } from 'react-router'
import { SignDrawing } from '../drawing/SignDrawing'
import { readingContext } from '../pairs/readingContext'
import { FileDrop } from '../paths/FileDrop'
import { percent } from '../components/format'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './NextStep.module.css'

/** Kinds of steps as they are called. */
export const STEP_KINDS = { look: 'Look', check: 'Check', trial: 'Trial print', mend: 'Mend' } as const
/** Procedures that show how a check is done. */
const HOW: Partial<Record<LookId, ProcedureId>> = {
  'level-screws': 'level-screws',
  'clean-bed': 'wash-bed',
  'paper-gauge': 'nozzle-gap',
  'measure-diameter': 'measure-filament',
  'inspect-gear': 'clean-gear',
  'cold-pull': 'cold-pull',
  'weigh-and-dry': 'dry-filament',
  'shake-axes': 'tension-belts',
}

/** What a check showed of a suspect; null: it cannot be told. */
const FOUND: Answer<boolean | null>[] = [
  { value: true, label: 'It is so', tone: 'bad' },
  { value: false, label: 'Not so', tone: 'absent' },
  { value: null, label: 'Can’t tell', tone: 'neutral' },
]

type PieceCosts = Partial<Record<PieceId, PieceCost>>

/** What a step takes; a piece as it is on this pair, once that is known. */
function cost(s: AdvisedStep, costs?: PieceCosts): string {
  const own = s.kind === 'trial' && isPiece(s.trial) ? costs?.[s.trial] : undefined
  const machine = own?.minutes ?? s.machineMinutes
  const grams = own?.grams ?? s.grams
  return [
    s.minutes >= 1 ? `${quantity(s.minutes, 'min', 0)} of yours` : 'half a minute',
    machine ? `${quantity(machine, 'min', 0)} of the machine` : '',
    grams ? quantity(grams, 'g', 0) : '',
  ]
    .filter(Boolean)
    .join(', ')
}

/** The step with the least expected cost to the fix, what it does for the picture, and the runners-up. */
export function NextStep({
  advice,
  pair,
  costs,
  cannot,
  onSign,
  onLook,
  onCannot,
  onMend,
  onFile,
  weights,
  onWeights,
}: {
  advice: Advice
  pair: PairDetail
  /** What pieces take on this pair; usual figures stand until it is known. */
  costs?: PieceCosts
  cannot: string[]
  onSign: CaseActions['mark']
  onLook: (answers: LookAnswers) => void
  onCannot: (ids: string[]) => void
  /** A mend was chosen: it is taken up in the list below. */
  onMend: (proposal: string) => void
  /** The file of the print was dropped. */
  onFile: CaseActions['addFile']
  weights: CostWeights
  onWeights: (w: CostWeights) => void
}) {
  const [chosen, setChosen] = useState<string | null>(null)
  const all = advice.next ? [advice.next, ...advice.others] : advice.others
  const step = all.find((s) => s.id === chosen) ?? advice.next
  if (!step) return null
  return (
    <section className={clsx(styles.nextstep, ui.stack)} aria-label="The next step" data-step={step.id}>
      <div className={clsx(ui.row, ui.between)}>
        <span>
          <span className={clsx(ui.tag, ui.info)}>{STEP_KINDS[step.kind]}</span>{' '}
          <strong>{stepName(step)}</strong>
        </span>
        <span className={clsx(ui.faint, ui.small)}>{cost(step, costs)}</span>
      </div>
      <Body
        key={step.id}
        step={step}
        pair={pair}
        onSign={onSign}
        onLook={onLook}
        onMend={onMend}
        onFile={onFile}
      />
      <div className={clsx(ui.faint, ui.small)}>
        {step.picture.map((reason, i) => (
          <div key={i}>{say(reason)}</div>
        ))}
        {step.kind !== 'mend' && step.saves > 0.5 && (
          <div>Asked first, it saves about {quantity(step.saves, 'min', 0)} on the way to the fix.</div>
        )}
      </div>
      <div className={ui.row}>
        <Button
          size="small"
          onClick={() => {
            setChosen(null)
            onCannot([...cannot, step.id])
          }}
        >
          I can’t do that
        </Button>
        {cannot.length > 0 && (
          <button type="button" className={clsx(ui.linkish, ui.small)} onClick={() => onCannot([])}>
            {cannot.length} left out: ask again
          </button>
        )}
      </div>
      {advice.atOnce.length > 1 && (
        <p className={clsx(ui.notice, ui.info)}>
          {say(because('several-at-work', { suspects: advice.atOnce }))}
        </p>
      )}
      {advice.conflicts.map((reason, i) => (
        <p key={i} className={clsx(ui.notice, ui.caution)}>
          {say(reason)}
        </p>
      ))}
      {all.length > 1 && (
        <details>
          <summary className={ui.small}>Other steps worth considering</summary>
          <ul className={clsx(ui.plainlist, ui.small)}>
            {all
              .filter((s) => s.id !== step.id)
              .map((s) => (
                <li key={s.id} className={clsx(ui.row, ui.between)}>
                  <button type="button" className={ui.linkish} onClick={() => setChosen(s.id)}>
                    {STEP_KINDS[s.kind]}: {stepName(s)}
                  </button>
                  <span className={ui.faint}>{cost(s, costs)}</span>
                </li>
              ))}
          </ul>
        </details>
      )}
      <details>
        <summary className={ui.small}>What things are worth to me</summary>
        <div className={styles.weights}>
          {(
            [
              ['mine', 'A minute of mine', 4],
              ['machine', 'A minute of the machine', 2],
              ['gram', 'A gram of filament', 2],
              ['risk', 'A side effect', 6],
            ] as const
          ).map(([key, label, max]) => (
            <label key={key} className={ui.small}>
              {label}
              <Slider
                min={0}
                max={max}
                step={0.05}
                value={weights[key]}
                onChange={(v) => onWeights({ ...weights, [key]: v })}
                ariaLabelForHandle={label}
              />
            </label>
          ))}
        </div>
        <Button size="small" type="text" onClick={() => onWeights(USUAL_WEIGHTS)}>
          As usual
        </Button>
      </details>
    </section>
  )
}

function Body({
  step,
  pair,
  onSign,
  onLook,
  onMend,
  onFile,
}: {
  step: AdvisedStep
  pair: PairDetail
  onSign: CaseActions['mark']
  onLook: (answers: LookAnswers) => void
  onMend: (proposal: string) => void
  onFile: CaseActions['addFile']
}) {
  const [answers, setAnswers] = useState<Partial<Record<SuspectId, boolean | null>>>({})
  const { id } = useParams()
  if (step.kind === 'look')
    return (
      <div className={ui.stack} style={{ gap: 12 }}>
        {step.signs.map((sign, i) => (
          <SignQuestion key={sign} sign={sign} first={i === 0} onSign={onSign} />
        ))}
        <span className={clsx(ui.faint, ui.small)}>
          {signName(step.sign)} is there in {percent(step.yes)} of cases like this.
        </span>
      </div>
    )
  if (step.kind === 'mend')
    return (
      <div className={ui.row}>
        <Button type="primary" onClick={() => onMend(step.proposal)}>
          Take it up below
        </Button>
        <span className={clsx(ui.faint, ui.small)}>
          It goes for: {suspectName(step.suspect).toLowerCase()}.
        </span>
      </div>
    )
  if (step.kind === 'check' && step.check === 'read-paths')
    return <AskFile pair={pair} about={step.about} onFile={onFile} />
  const by = step.kind === 'check' ? step.check : step.trial
  const how = HOW[by]
  const kind = measuredBy(by)
  const results = step.about.flatMap((suspect) => {
    const found = answers[suspect] ?? null
    return found === null ? [] : [{ suspect, found }]
  })
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      {isPiece(by) && (
        <p>
          <Link to={`/trials/new/${by}?case=${id}`}>Write this piece for the pair</Link>{' '}
          <span className={clsx(ui.faint, ui.small)}>What you read off it comes back here by itself.</span>
        </p>
      )}
      {kind && id && <MeasureIt pair={pair} caseId={id} kind={kind} />}
      {step.kind === 'check' && <Observe pair={pair} check={step.check} />}
      {how && (
        <details>
          <summary className={ui.small}>How it is done</summary>
          <ol>
            {procedureOf(how).steps.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ol>
        </details>
      )}
      <ul className={ui.plainlist}>
        {step.about.map((s) => (
          <li key={s} className={clsx(ui.row, ui.between)} data-about={s}>
            <span>
              {suspectOf(s).name}: <span className={ui.faint}>{tellOf(s, by)}</span>
            </span>
            <Answers
              name={`about-${s}`}
              options={FOUND}
              value={answers[s] ?? null}
              onAnswer={(found) => setAnswers((a) => ({ ...a, [s]: found }))}
            />
          </li>
        ))}
      </ul>
      <div>
        <Button type="primary" disabled={!results.length} onClick={() => onLook({ by, results })}>
          Note what it showed
        </Button>
      </div>
    </div>
  )
}

/** The file of the print is asked for: what it shows is read, and not asked. */
function AskFile({
  pair,
  about,
  onFile,
}: {
  pair: PairDetail
  about: readonly SuspectId[]
  onFile: CaseActions['addFile']
}) {
  const context = useMemo(() => readingContext(pair), [pair])
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <FileDrop
        context={context}
        onRead={({ name, bytes, sha256, reading }) => onFile({ name, bytes, sha256, reading })}
        hint="Drop the G-code file that was printed."
      />
      <span className={clsx(ui.faint, ui.small)}>
        Verimend reads the file itself. What it can show:{' '}
        {listed(
          about.map((x) => suspectName(x).toLowerCase()),
          'or',
        )}
        .
      </span>
    </div>
  )
}

/** One sign that is asked about: what it looks like, where to look, and the answer. */
function SignQuestion({
  sign: id,
  first,
  onSign,
}: {
  sign: SignId
  first: boolean
  onSign: CaseActions['mark']
}) {
  const sign = signOf(id)
  return (
    <div className={ui.stack} style={{ gap: 6 }} data-asks={id}>
      <div className={ui.row} style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
        <SignDrawing sign={id} />
        <div>
          {!first && <strong>{sign.name}</strong>}
          <p>{sign.text}</p>
          <p className={clsx(ui.faint, ui.small)}>Look: {sign.where}</p>
          {sign.unlike && (
            <p className={clsx(ui.faint, ui.small)}>
              Not {signOf(sign.unlike.id).name.toLowerCase()}? {sign.unlike.tell}
            </p>
          )}
        </div>
      </div>
      <div className={ui.row}>
        <Button type={first ? 'primary' : 'default'} onClick={() => onSign(id, 'present')}>
          It is there
        </Button>
        <Button onClick={() => onSign(id, 'absent')}>It is not there</Button>
      </div>
    </div>
  )
}

/** What checks and trials showed so far, each to be taken back. */
export function CheckNotes({
  checks,
  onTakeBack,
}: {
  checks: readonly LookResult[]
  onTakeBack: (answers: LookAnswers) => void
}) {
  if (!checks.length) return null
  return (
    <ul className={clsx(ui.plainlist, ui.small)} aria-label="What checks showed">
      {checks.map(({ by, suspect, found }) => (
        <li key={`${by}${suspect}`} className={clsx(ui.row, ui.between)}>
          <span>
            {suspectName(suspect)}: {found ? 'it is so' : 'not so'}{' '}
            <span className={ui.faint}>({lookName(by).toLowerCase()})</span>
          </span>
          <Button
            size="small"
            type="text"
            onClick={() => onTakeBack({ by, results: [{ suspect, found: null }] })}
          >
            Take back
          </Button>
        </li>
      ))}
    </ul>
  )
}

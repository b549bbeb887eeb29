import { Button, Slider } from 'antd'
import {
  USUAL_WEIGHTS,
  isPiece,
  procedureOf,
  quantity,
  signOf,
  suspectOf,
  type AdvisedStep,
  type Advice,
  type CheckResult,
  type CostWeights,
  type ProcedureId,
  type SignId,
  type SuspectId,
} from '@verimend/core'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { SignDrawing } from '../drawings/SignDrawing'
import { percent } from '../parts/format'

const KINDS = { look: 'Look', check: 'Check', trial: 'Trial print', mend: 'Mend' } as const
/** Procedures that show how a check is done. */
const HOW: Partial<Record<string, ProcedureId>> = {
  'level-screws': 'level-screws',
  'clean-bed': 'wash-bed',
  'paper-gauge': 'nozzle-gap',
  'measure-diameter': 'measure-filament',
  'inspect-gear': 'clean-gear',
  'cold-pull': 'cold-pull',
  'weigh-and-dry': 'dry-filament',
  'shake-axes': 'tension-belts',
}

const cost = (s: AdvisedStep) =>
  [
    s.minutes >= 1 ? `${quantity(s.minutes, 'min', 0)} of yours` : 'half a minute',
    s.machineMinutes ? `${quantity(s.machineMinutes, 'min', 0)} of the machine` : '',
    s.grams ? quantity(s.grams, 'g', 0) : '',
  ]
    .filter(Boolean)
    .join(', ')

/** The step with the least expected cost to the fix, what it does for the picture, and the runners-up. */
export function NextStep({
  advice,
  cannot,
  onSign,
  onCheck,
  onCannot,
  onMend,
  weights,
  onWeights,
}: {
  advice: Advice
  cannot: string[]
  onSign: (sign: SignId, state: 'present' | 'absent') => void
  onCheck: (by: CheckResult['by'], results: { suspect: SuspectId; found: boolean }[]) => void
  onCannot: (ids: string[]) => void
  /** A mend was chosen: it is taken up in the list below. */
  onMend: (proposal: string) => void
  weights: CostWeights
  onWeights: (w: CostWeights) => void
}) {
  const [chosen, setChosen] = useState<string | null>(null)
  const all = advice.next ? [advice.next, ...advice.others] : advice.others
  const step = all.find((s) => s.id === chosen) ?? advice.next
  if (!step) return null
  return (
    <section className="nextstep stack" aria-label="The next step" data-step={step.id}>
      <div className="row between">
        <span>
          <span className="tag info">{KINDS[step.kind]}</span> <strong>{step.name}</strong>
        </span>
        <span className="faint small">{cost(step)}</span>
      </div>
      <Body key={step.id} step={step} onSign={onSign} onCheck={onCheck} onMend={onMend} />
      <div className="faint small">
        {step.words.map((w) => (
          <div key={w}>{w}</div>
        ))}
        {step.kind !== 'mend' && step.saves > 0.5 && (
          <div>Asked first, it saves about {quantity(step.saves, 'min', 0)} on the way to the fix.</div>
        )}
      </div>
      <div className="row">
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
          <button type="button" className="linkish small" onClick={() => onCannot([])}>
            {cannot.length} left out: ask again
          </button>
        )}
      </div>
      {advice.conflicts.map((c) => (
        <p key={c} className="notice caution">
          {c}
        </p>
      ))}
      {all.length > 1 && (
        <details>
          <summary className="small">Other steps worth considering</summary>
          <ul className="plainlist small">
            {all
              .filter((s) => s.id !== step.id)
              .map((s) => (
                <li key={s.id} className="row between">
                  <button type="button" className="linkish" onClick={() => setChosen(s.id)}>
                    {KINDS[s.kind]}: {s.name}
                  </button>
                  <span className="faint">{cost(s)}</span>
                </li>
              ))}
          </ul>
        </details>
      )}
      <details>
        <summary className="small">What things are worth to me</summary>
        <div className="weights">
          {(
            [
              ['mine', 'A minute of mine', 4],
              ['machine', 'A minute of the machine', 2],
              ['gram', 'A gram of filament', 2],
              ['risk', 'A side effect', 6],
            ] as const
          ).map(([key, label, max]) => (
            <label key={key} className="small">
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
  onSign,
  onCheck,
  onMend,
}: {
  step: AdvisedStep
  onSign: (sign: SignId, state: 'present' | 'absent') => void
  onCheck: (by: CheckResult['by'], results: { suspect: SuspectId; found: boolean }[]) => void
  onMend: (proposal: string) => void
}) {
  const [answers, setAnswers] = useState<Partial<Record<SuspectId, boolean>>>({})
  const { id } = useParams()
  if (step.kind === 'look') {
    const sign = signOf(step.sign)
    return (
      <div className="stack" style={{ gap: 8 }}>
        <div className="row" style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
          <SignDrawing sign={step.sign} />
          <div>
            <p>{sign.text}</p>
            <p className="faint small">Look: {sign.where}</p>
            {sign.unlike && (
              <p className="faint small">
                Not {signOf(sign.unlike.id).name.toLowerCase()}? {sign.unlike.tell}
              </p>
            )}
          </div>
        </div>
        <div className="row">
          <Button type="primary" onClick={() => onSign(step.sign, 'present')}>
            It is there
          </Button>
          <Button onClick={() => onSign(step.sign, 'absent')}>It is not there</Button>
          <span className="faint small">likely in {percent(step.yes)} of cases like this</span>
        </div>
      </div>
    )
  }
  if (step.kind === 'mend')
    return (
      <div className="row">
        <Button type="primary" onClick={() => onMend(step.proposal)}>
          Take it up below
        </Button>
        <span className="faint small">It goes for: {suspectOf(step.suspect).name.toLowerCase()}.</span>
      </div>
    )
  const by = step.kind === 'check' ? step.check : step.trial
  const how = HOW[by]
  const given = Object.entries(answers) as [SuspectId, boolean][]
  return (
    <div className="stack" style={{ gap: 8 }}>
      {isPiece(by) && (
        <p>
          <Link to={`/trials/new/${by}?case=${id}`}>Write this piece for the pair</Link>{' '}
          <span className="faint small">What you read off it comes back here by itself.</span>
        </p>
      )}
      {how && (
        <details>
          <summary className="small">How it is done</summary>
          <ol>
            {procedureOf(how).steps.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ol>
        </details>
      )}
      <ul className="plainlist">
        {step.about.map((s) => (
          <li key={s} className="row between" data-about={s}>
            <span>
              {suspectOf(s).name}: <span className="faint">{suspectOf(s).tell}</span>
            </span>
            <span className="answers">
              {(
                [
                  [true, 'It is so'],
                  [false, 'Not so'],
                  [undefined, 'Can’t tell'],
                ] as const
              ).map(([v, label]) => (
                <label
                  key={label}
                  className={
                    answers[s] === v ? `on ${v === undefined ? 'unlooked' : v ? 'present' : 'absent'}` : ''
                  }
                >
                  <input
                    type="radio"
                    name={`about-${s}`}
                    className="visually-hidden"
                    checked={answers[s] === v}
                    onChange={() =>
                      setAnswers((a) => {
                        const n = { ...a }
                        if (v === undefined) delete n[s]
                        else n[s] = v
                        return n
                      })
                    }
                  />
                  {label}
                </label>
              ))}
            </span>
          </li>
        ))}
      </ul>
      <div>
        <Button
          type="primary"
          disabled={!given.length}
          onClick={() =>
            onCheck(
              by,
              given.map(([suspect, found]) => ({ suspect, found })),
            )
          }
        >
          Note what it showed
        </Button>
      </div>
    </div>
  )
}

/** What checks and trials showed so far, each to be taken back. */
export function CheckNotes({ checks, onUndo }: { checks: CheckResult[]; onUndo?: (c: CheckResult) => void }) {
  if (!checks.length) return null
  return (
    <ul className="plainlist small" aria-label="What checks showed">
      {checks.map((c) => (
        <li key={`${c.by}${c.suspect}`} className="row between">
          <span>
            {suspectOf(c.suspect).name}: {c.found ? 'it is so' : 'not so'}{' '}
            <span className="faint">({c.by.replaceAll('-', ' ')})</span>
          </span>
          {onUndo && (
            <Button size="small" type="text" onClick={() => onUndo(c)}>
              Take back
            </Button>
          )}
        </li>
      ))}
    </ul>
  )
}

import { Button, Checkbox } from 'antd'
import type { PairDetail, Trial } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import { isNumberKey, keysOf, switchedOnFor, type NumberKey } from '@verimend/core/recipe'
import type { Outcome } from '@verimend/core/trials'
import { SCALE_LABELS, say, settingLabel, settingLabels, valueText, variedText } from '@verimend/core/words'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { api } from '../api/client'
import { ApiProblem } from '../api/http'
import { useTrialChange } from '../api/queries'
import { Problem } from '../components/states'
import { FitChart } from './FitChart'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** How the answer of an outcome is shown: one that finds nothing is no answer. */
function answerClass(kind: Outcome['kind']): string | undefined {
  if (kind === 'flat') return undefined
  return kind === 'found' ? ui.answer : clsx(ui.answer, ui.caution)
}

/** What comes of a trial: the answer, the fit, and what of it goes into the recipe. */
export function OutcomePanel({
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
  const [left, setLeft] = useState<NumberKey[]>([])
  const adopt = useTrialChange(t.id, (keys: NumberKey[]) => api.trials.adopt(t.id, pair.current, keys))
  if (!read)
    return (
      <section className={ui.sheet} aria-label="What comes of it">
        <h2>What comes of it</h2>
        <p className={ui.faint}>Print the piece, look at it place by place, and the fit appears here.</p>
      </section>
    )
  const key = o.key === 'meltRate' ? 'meltCap' : o.key
  const inUse = key && isNumberKey(key) ? pair.version.values[key].value : null
  const chosen = o.adopt.filter((a) => !left.includes(a.key))
  const turned = keysOf(
    switchedOnFor(
      chosen.map((a) => a.key),
      pair.version.values,
    ),
  )
  const conflict = adopt.error instanceof ApiProblem && adopt.error.problem.status === 409
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="What comes of it">
      <h2>What comes of it</h2>
      {o.reasons.map((reason, i) => (
        <p key={i} className={i === 0 ? answerClass(o.kind) : ui.faint}>
          {say(reason)}
        </p>
      ))}
      {o.drift && <p className={clsx(ui.notice, ui.caution)}>{say(o.drift)}</p>}
      <FitChart outcome={o} inUse={inUse} newest={t.number} />
      {o.r2 !== null && o.sd !== null && SCALE_LABELS[o.scale].max > 0 && (
        <p className={clsx(ui.faint, ui.small)}>
          The fit explains {Math.max(0, Math.round(o.r2 * 100))} % of the differences; readings scatter by{' '}
          {figure(o.sd, 2)} round it.
        </p>
      )}
      {o.adopt.length > 0 && (
        <ul className={ui.plainlist}>
          {o.adopt.map((a) => (
            <li key={a.key} data-adopt={a.key}>
              <Checkbox
                checked={!left.includes(a.key)}
                onChange={(e) =>
                  setLeft((l) => (e.target.checked ? l.filter((k) => k !== a.key) : [...l, a.key]))
                }
              >
                {settingLabel(a.key)}{' '}
                <span className={clsx(ui.figure, ui.faint)}>
                  {valueText(a.key, pair.version.values[a.key].value)}
                </span>{' '}
                → <strong className={ui.figure}>{valueText(a.key, a.value)}</strong>{' '}
                <span className={clsx(ui.figure, ui.faint)}>± {figure(a.plusMinus, 3)}</span>
              </Checkbox>
            </li>
          ))}
        </ul>
      )}
      {turned.length > 0 && (
        <p className={clsx(ui.faint, ui.small)}>
          {settingLabels(turned)} is off in this recipe: taking this turns it on.
        </p>
      )}
      {!!adopt.error && <Problem error={adopt.error} />}
      <div className={ui.row}>
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
                `/trials/new/${t.plan.piece}?from=${o.next!.from}&to=${o.next!.to}&count=${o.next!.count}${t.plan.joints ? `&joints=${t.plan.joints.join(',')}` : ''}`,
              )
            }
          >
            Plan the next: {variedText(o.next.key, o.next.from)} to {variedText(o.next.key, o.next.to)}
          </Button>
        )}
        {t.adoptedVersion !== null && <Link to="/recipes">See the recipe</Link>}
      </div>
    </section>
  )
}

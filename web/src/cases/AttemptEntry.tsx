import type { Attempt } from '@verimend/contract'
import { overallOutcome, turnedOut, type SignResult } from '@verimend/core/casework'
import { because, mendOf } from '@verimend/core/diagnosis'
import type { SignId } from '@verimend/core/knowledge'
import { keysOf, type Difference } from '@verimend/core/recipe'
import { OUTCOME_WORDS, changeText, say, settingLabel, signName, valueText } from '@verimend/core/words'
import type { Filament } from '@verimend/core/material'
import { memo, type ReactNode } from 'react'
import { Link } from 'react-router'
import { ago } from '../components/format'
import { Entry } from './Entry'
import { Steps } from './Steps'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './AttemptEntry.module.css'

const helped = (result: SignResult) => result === 'gone' || result === 'better'

/** Why a mend was proposed; empty when the knowledge has it no more. */
function whyOf({ proposal, suspect }: Attempt['mends'][number]): string {
  const found = mendOf(proposal)
  return found ? say(because('mend-helps', { suspect, mend: found.place })) : ''
}

/** A setting that moved with another one. */
const followerText = ({ key, from, to, grade }: Difference): string =>
  `${settingLabel(key).toLowerCase()} ${valueText(key, from!)} → ${valueText(key, to!)}${grade && grade !== 'standard' ? ` in ${grade} layers` : ''}`

/** Where a change was found that was not chosen in the case. */
function FoundThere({ found }: { found: NonNullable<Attempt['mends'][number]['found']> }) {
  switch (found.kind) {
    case 'trial':
      return <Link to={`/trials/${found.id}`}>Found by a trial.</Link>
    case 'measurement':
      return <Link to={`/measure/${found.id}`}>Found by measuring.</Link>
    case 'part':
      return <Link to={`/parts/${found.id}`}>Changed for this part when it was planned.</Link>
    case 'recipe':
      return <>Changed in the recipe, outside this case.</>
  }
}

/** One attempt: what was changed, and what came of it. */
export const AttemptEntry = memo(function AttemptEntry({
  attempt: a,
  back = [],
  changes = [],
  filament,
  children,
}: {
  attempt: Attempt
  /** All that its recipe version changed. */
  changes?: readonly Difference[]
  /** Signs that it had made go away, and that were seen again later. */
  back?: readonly SignId[]
  /** The roll, for the figures of what is done with it. */
  filament?: Filament
  children?: ReactNode
}) {
  const outcome = overallOutcome(turnedOut(a, back))
  const named = new Set(a.mends.flatMap((m) => (m.kind === 'setting' ? [m.key] : [])))
  const followed = changes.filter(
    ({ key, from, to }) => !named.has(key) && from !== undefined && to !== undefined,
  )
  return (
    <Entry
      kind="attempt"
      name={`attempt-${a.number}`}
      title={
        <>
          Attempt {a.number}{' '}
          {outcome ? (
            <span className={helped(outcome) ? clsx(ui.tag, ui.good) : clsx(ui.tag, ui.fault)}>
              {OUTCOME_WORDS[outcome]}
            </span>
          ) : (
            <span className={clsx(ui.tag, ui.caution)}>to be looked at</span>
          )}
        </>
      }
      aside={<span className={ui.faint}>{ago(a.createdAt)}</span>}
    >
      <ul className={ui.plainlist}>
        {a.mends.map((m) => (
          <li key={m.proposal}>
            <strong>{changeText(m)}</strong>{' '}
            <span className={ui.faint}>{m.found ? <FoundThere found={m.found} /> : whyOf(m)}</span>
            {m.kind === 'handling' && !a.recordedAt && <Steps id={m.procedure} filament={filament} />}
          </li>
        ))}
      </ul>
      <p className={clsx(ui.faint, ui.small)}>
        {a.toVersion !== a.fromVersion
          ? `Recipe version ${a.fromVersion} → ${a.toVersion}.`
          : `Recipe stays at version ${a.toVersion}.`}
      </p>
      {followed.length > 0 && (
        <p className={clsx(ui.faint, ui.small)}>With it moved: {followed.map(followerText).join(', ')}.</p>
      )}
      {a.results && (
        <p>
          {keysOf(a.results).map((s) => (
            <span key={s} className={styles.resulttag}>
              {signName(s)}{' '}
              <span className={helped(a.results![s]!) ? ui.good : ui.fault}>{a.results![s]}</span>
              {back.includes(s) && <span className={ui.fault}>, back later</span>}
            </span>
          ))}
          {a.newSigns.map((s) => (
            <span key={s} className={styles.resulttag}>
              {signName(s)} <span className={ui.fault}>new</span>
            </span>
          ))}
        </p>
      )}
      {a.note && <p className={ui.wrap}>“{a.note}”</p>}
      {children}
    </Entry>
  )
})

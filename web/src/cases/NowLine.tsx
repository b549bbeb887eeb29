import { Button } from 'antd'
import type { Attempt, CaseDetail } from '@verimend/contract'
import { signsThat, toTakeBack, type Diagnosis } from '@verimend/core/casework'
import { stepName } from '@verimend/core/words'
import { quantity } from '@verimend/core/quantity'
import type { RefObject } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import { STEP_KINDS } from './NextStep'
import styles from './NowLine.module.css'

interface Now {
  /** What is to be done. */
  text: string
  /** What it takes or why. */
  aside?: string
  /** Name of the entry it is done in. */
  entry: string
  button: string
}

/** What a case waits for; null while it is not known yet. */
function nowOf(
  kase: CaseDetail,
  waiting: Attempt | undefined,
  diagnosis: Diagnosis | undefined,
  version: number,
): Now | null {
  const seen = signsThat('present', kase.signs).length
  if (kase.status === 'closed') {
    const began = signsThat('present', kase.attempts[0]?.signsBefore ?? kase.signs).length
    return {
      text: seen ? 'Closed with signs left' : 'Closed: nothing is left',
      aside: began ? `${began - Math.min(began, seen)} of ${began} signs are gone` : undefined,
      entry: 'kept',
      button: 'What it taught',
    }
  }
  if (waiting)
    return {
      text:
        waiting.toVersion === waiting.fromVersion
          ? `Attempt ${waiting.number}: print it, then say what became of it`
          : `Attempt ${waiting.number}: print version ${waiting.toVersion}, then say what became of it`,
      entry: `attempt-${waiting.number}`,
      button: 'Say what became of it',
    }
  const worse = toTakeBack(kase.attempts, version)
  if (worse)
    return {
      text: `Take back attempt ${worse.number}, which made it worse`,
      entry: 'next',
      button: 'Show me',
    }
  if (!seen)
    return kase.attempts.length
      ? { text: 'No sign is left: keep what works and close the case', entry: 'close', button: 'Close it' }
      : { text: 'Mark what you see on the part', entry: 'seen', button: 'Mark signs' }
  const next = diagnosis?.plan.next
  if (!diagnosis) return null
  if (!next) return { text: 'Look again, or mark more signs', entry: 'seen', button: 'Mark signs' }
  const takes = [
    `${quantity(Math.max(1, next.minutes), 'min', 0)} of yours`,
    next.machineMinutes ? `${quantity(next.machineMinutes, 'min', 0)} of the machine` : '',
  ]
  return {
    text: `${STEP_KINDS[next.kind]}: ${stepName(next)}`,
    aside: takes.filter(Boolean).join(', '),
    entry: 'next',
    button: 'Show me',
  }
}

/** The one thing a case waits for, always in sight: it leads to the entry where it is done. */
export function NowLine({
  kase,
  waiting,
  diagnosis,
  version,
  within,
}: {
  kase: CaseDetail
  /** The attempt that is to be looked at. */
  waiting: Attempt | undefined
  diagnosis: Diagnosis | undefined
  /** The pair's recipe version in effect. */
  version: number
  /** Where the entries stand. */
  within: RefObject<HTMLElement | null>
}) {
  const now = nowOf(kase, waiting, diagnosis, version)
  const lead = () => {
    const target = within.current?.querySelector<HTMLElement>(`[data-entry="${now?.entry}"]`)
    if (!target) return
    const calm = matchMedia('(prefers-reduced-motion: reduce)').matches
    target.scrollIntoView({ block: 'start', behavior: calm ? 'auto' : 'smooth' })
    target.querySelector<HTMLElement>('h2')?.focus({ preventScroll: true })
  }
  return (
    <div className={styles.now} role="region" aria-label="Now" data-testid="now">
      {now ? (
        <>
          <span className={styles.text}>
            <strong>Now</strong> {now.text}
            {now.aside && <span className={clsx(ui.faint, ui.small)}> {now.aside}</span>}
          </span>
          <Button size="small" type="primary" onClick={lead}>
            {now.button}
          </Button>
        </>
      ) : (
        <span className={ui.faint}>Working out what is worth doing next …</span>
      )}
    </div>
  )
}

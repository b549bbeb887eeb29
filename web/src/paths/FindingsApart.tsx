import type { PairDetail } from '@verimend/contract'
import type { PathFinding } from '@verimend/core/diagnosis'
import type { PathReading } from '@verimend/core/toolpath'
import { sayFinding } from '@verimend/core/words'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import { useFindings } from './useFindings'

/** What a change of a file takes away of what speaks of a flaw, and what it brings; nothing where both are alike. */
export function FindingsApart({
  before,
  after,
  pair,
}: {
  before: PathReading
  after: PathReading
  pair: PairDetail
}) {
  const [old, now] = [useFindings(before, pair).data, useFindings(after, pair).data]
  if (!old || !now) return null
  const bad = (list: readonly PathFinding[]) => list.filter((f) => f.severity !== 'good')
  const without = (list: readonly PathFinding[], other: readonly PathFinding[]) =>
    list.filter((f) => !other.some((o) => o.kind === f.kind))
  const gone = without(bad(old), bad(now))
  const come = without(bad(now), bad(old))
  if (!gone.length && !come.length) return null
  return (
    <ul className={ui.bites} aria-label="What the change does to the findings">
      {gone.map((f) => (
        <li key={f.kind} data-severity="good" data-gone={f.kind}>
          <strong>Gone:</strong> <span className={ui.faint}>{sayFinding(f).text}</span>
        </li>
      ))}
      {come.map((f) => (
        <li key={f.kind} data-severity={f.severity} data-come={f.kind}>
          <strong className={clsx(ui.caution)}>New:</strong> {sayFinding(f).text}
        </li>
      ))}
    </ul>
  )
}

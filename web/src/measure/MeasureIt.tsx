import { Button } from 'antd'
import type { MeasurementRecord, PairDetail } from '@verimend/contract'
import { measurementContext } from '@verimend/core/casework'
import type { LookId } from '@verimend/core/knowledge'
import { evaluate, type MeasuredKind } from '@verimend/core/measurement'
import { MEASURED_WORDS, say } from '@verimend/core/words'
import { Link } from 'react-router'
import { useMeasurements } from '../api/queries'
import { Problem } from '../components/states'
import { useBegin } from './useBegin'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Checks and pieces whose answer is a measurement. */
const MEASURES: Partial<Record<LookId, MeasuredKind>> = {
  calipers: 'sizes',
  'probe-grid': 'bed',
  'level-screws': 'bed',
  'feed-100': 'feed',
  'hang-thread': 'thread',
  'watch-heater': 'heater',
  'weigh-and-dry': 'drying',
  'mark-heights': 'bands',
}
export const measuredBy = (look: LookId): MeasuredKind | undefined => MEASURES[look]

/** A way to the measurement that settles a check, from within a case. */
export function MeasureIt({ pair, caseId, kind }: { pair: PairDetail; caseId: string; kind: MeasuredKind }) {
  const { begin, busy, error } = useBegin(pair, caseId)
  return (
    <>
      <div className={ui.row}>
        <Button loading={busy} onClick={() => begin(kind)}>
          Measure it: {MEASURED_WORDS[kind].toLowerCase()}
        </Button>
        <span className={clsx(ui.faint, ui.small)}>What it says comes back here by itself, with its ±.</span>
      </div>
      {!!error && <Problem error={error} />}
    </>
  )
}

/** What was measured in a case, with what it says. */
export function MeasuredInCase({ pair, caseId }: { pair: PairDetail; caseId: string }) {
  const { data = [] } = useMeasurements(pair.machineId, pair.id)
  const own = data.filter((m) => m.caseId === caseId)
  if (!own.length) return null
  return (
    <ul className={clsx(ui.plainlist, ui.small)} aria-label="What was measured">
      {own.map((m) => (
        <li key={m.id}>
          <Link to={`/measure/${m.id}`}>{MEASURED_WORDS[m.measured.kind]}</Link>: {answerOf(m, pair)}
        </li>
      ))}
    </ul>
  )
}

/** The first sentence of what a measurement says. */
function answerOf(m: MeasurementRecord, pair: PairDetail): string {
  const context = measurementContext(
    { machine: pair.machine.machine, filament: pair.filament.filament, recipe: pair.version.values },
    null,
  )
  const { outcome } = evaluate(m.measured, { ...context, inUse: m.inUse ?? undefined })
  return outcome.reasons.length ? say(outcome.reasons[0]) : ''
}

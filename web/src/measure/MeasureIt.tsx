import { Button } from 'antd'
import type { PairDetail } from '@verimend/contract'
import { measurementContext } from '@verimend/core/casework'
import type { MeasuredKind } from '@verimend/core/measurement'
import { MEASURED_WORDS, say } from '@verimend/core/words'
import { useMemo } from 'react'
import { Link } from 'react-router'
import { useMeasurements } from '../api/queries'
import { Problem } from '../components/states'
import { useComputed } from '../workers/useComputed'
import { useBegin } from './useBegin'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

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
  const { data } = useMeasurements(pair.machineId, pair.id)
  const own = useMemo(() => (data ?? []).filter((m) => m.caseId === caseId), [data, caseId])
  const input = useMemo(() => {
    if (!own.length) return null
    const context = measurementContext(
      { machine: pair.machine.machine, filament: pair.filament.filament, recipe: pair.version.values },
      null,
    )
    return own.map((m) => ({ measured: m.measured, context: { ...context, inUse: m.inUse ?? undefined } }))
  }, [own, pair])
  const { data: all } = useComputed('measureAll', input)
  if (!own.length) return null
  return (
    <ul className={clsx(ui.plainlist, ui.small)} aria-label="What was measured">
      {own.map((m, i) => {
        const first = all?.[i]?.outcome.reasons[0]
        return (
          <li key={m.id}>
            <Link to={`/measure/${m.id}`}>{MEASURED_WORDS[m.measured.kind]}</Link>: {first ? say(first) : ''}
          </li>
        )
      })}
    </ul>
  )
}

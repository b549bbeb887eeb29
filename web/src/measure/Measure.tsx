import type { MeasurementRecord, PairDetail } from '@verimend/contract'
import { MEASURED_KINDS, driftOf } from '@verimend/core/measurement'
import { MEASURED_WORDS, say } from '@verimend/core/words'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { useMeasurements, usePair } from '../api/queries'
import { ago } from '../components/format'
import { RemoveButton } from '../components/RemoveButton'
import { Empty, Loaded, Problem } from '../components/states'
import { useUndo } from '../components/useUndo'
import { useCurrentPair } from '../pairs/PairContext'
import { ANSWERS } from './startWith'
import { useBegin } from './useBegin'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

/** What can be measured on this pair and its machine, and what was. */
export default function Measure() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  if (!pairId)
    return (
      <>
        <h1>Measure</h1>
        <Empty>Choose a filament and a machine at the top: what is measured belongs to them.</Empty>
      </>
    )
  return <Loaded query={pair}>{(p) => <Sheet key={p.id} pair={p} />}</Loaded>
}

function Sheet({ pair }: { pair: PairDetail }) {
  const list = useMeasurements(pair.machineId, pair.id)
  const { begin, busy, error } = useBegin(pair)
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Measure</h1>
        <span className={ui.faint}>
          What calipers, a probe, a scale or a photo say becomes a value with its ±, or a correction of the
          machine.
        </span>
      </div>
      {!!error && <Problem error={error} />}
      <ul className={styles.kinds} aria-label="What to measure">
        {MEASURED_KINDS.map((kind) => (
          <li key={kind}>
            <button type="button" disabled={busy} onClick={() => begin(kind)} data-kind={kind}>
              <strong>{MEASURED_WORDS[kind]}</strong>
              <span className={clsx(ui.faint, ui.small)}>{ANSWERS[kind]}</span>
            </button>
          </li>
        ))}
      </ul>
      <Loaded query={list}>
        {(records) => (
          <>
            <Drift records={records} pair={pair} />
            <h2 style={{ marginBottom: 10 }}>Measured so far</h2>
            {records.length === 0 ? (
              <Empty>Nothing yet on this pair. A cube and a caliper are a good beginning.</Empty>
            ) : (
              <div className={clsx(ui.sheet, ui.tablewrap)}>
                <table className={ui.plain} data-testid="measurements">
                  <thead>
                    <tr>
                      <th>What</th>
                      <th>Of</th>
                      <th>When</th>
                      <th>Done with it</th>
                      <td />
                    </tr>
                  </thead>
                  <tbody>
                    {records.map((m) => (
                      <Row key={m.id} record={m} />
                    ))}
                  </tbody>
                </table>
              </div>
            )}
          </>
        )}
      </Loaded>
    </>
  )
}

const DONE: Record<NonNullable<MeasurementRecord['acted']>['what'], string> = {
  recipe: 'in the recipe',
  levelled: 'levelled',
  'as-it-lies': 'noted on the machine',
  steps: 'steps corrected',
  weight: 'noted on the roll',
  diameter: 'noted on the roll',
}

function Row({ record }: { record: MeasurementRecord }) {
  const client = useQueryClient()
  const undo = useUndo()
  const remove = useMutation({
    mutationFn: () => api.measurements.remove(record.id),
    onSuccess: async () => {
      await changed.measurement(client)
      undo(
        'The measurement is removed.',
        () => void api.measurements.restore(record.id).then(() => changed.measurement(client)),
      )
    },
  })
  return (
    <tr>
      <td>
        <Link to={`/measure/${record.id}`}>{MEASURED_WORDS[record.measured.kind]}</Link>
      </td>
      <td className={ui.faint}>{record.pairId ? 'this pair' : 'the machine'}</td>
      <td className={ui.faint}>{ago(record.createdAt)}</td>
      <td>{record.acted ? <span className={clsx(ui.tag, ui.good)}>{DONE[record.acted.what]}</span> : '–'}</td>
      <td className={ui.num}>
        <RemoveButton
          what={MEASURED_WORDS[record.measured.kind].toLowerCase()}
          onClick={() => remove.mutate()}
        />
      </td>
    </tr>
  )
}

/** A screw that gives way, from all levellings of the machine. */
function Drift({ records, pair }: { records: readonly MeasurementRecord[]; pair: PairDetail }) {
  const said = driftOf(
    records.map((m) => ({
      measured: m.measured,
      on: m.createdAt.slice(0, 10),
      turned: m.acted?.what === 'levelled',
    })),
    pair.machine.machine,
  )
  return said.length ? (
    <p className={clsx(ui.notice, ui.caution)} style={{ marginBottom: 14 }}>
      {said.map(say).join(' ')}
    </p>
  ) : null
}

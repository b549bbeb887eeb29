import { Button } from 'antd'
import type { MachineRecord, MeasurementRecord, PairDetail } from '@verimend/contract'
import { currentFile, measurementContext } from '@verimend/core/casework'
import type { Evaluated, Measured, MeasurementContext } from '@verimend/core/measurement'
import { MEASURED_WORDS } from '@verimend/core/words'
import { useMemo } from 'react'
import { Link, useParams } from 'react-router'
import type { PathReading } from '@verimend/core/toolpath'
import { useCase, useMachines, useMeasurement as useKept, usePair } from '../api/queries'
import { ago } from '../components/format'
import { Empty, Loaded, Problem, Waiting } from '../components/states'
import { useComputed } from '../workers/useComputed'
import { BandsEditor } from './BandsEditor'
import { BedEditor } from './BedEditor'
import { MeasuredOutcome } from './MeasuredOutcome'
import { RipplesEditor } from './RipplesEditor'
import { SimpleEditor, isSimple, type SimpleKind } from './SimpleEditors'
import { SizesEditor } from './SizesEditor'
import { useMeasurement } from './useMeasurement'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

/** One measurement: what was read, and beside it what comes of it. */
export default function MeasurementPage() {
  const { id = '' } = useParams()
  const kept = useKept(id)
  const machines = useMachines()
  const pair = usePair(kept.data?.pairId)
  const kase = useCase(kept.data?.caseId ?? '')
  return (
    <Loaded query={kept}>
      {(record) => (
        <Loaded query={machines}>
          {(list) => {
            const machine = list.find((m) => m.id === record.machineId)
            if (!machine)
              return (
                <Empty action={<Link to="/measure">To what was measured</Link>}>
                  Its machine has been removed.
                </Empty>
              )
            if (record.pairId && !pair.data)
              return pair.error ? <Problem error={pair.error} /> : <Waiting tall={400} />
            return (
              <Sheet
                key={record.id}
                record={record}
                machine={machine}
                pair={pair.data}
                reading={(kase.data && currentFile(kase.data).file?.reading) ?? null}
              />
            )
          }}
        </Loaded>
      )}
    </Loaded>
  )
}

function Sheet({
  record,
  machine,
  pair,
  reading,
}: {
  record: MeasurementRecord
  machine: MachineRecord
  pair: PairDetail | undefined
  /** Of the case it was measured in. */
  reading: PathReading | null
}) {
  const { measured, change, settled, saving, error, again } = useMeasurement(record)
  const context = useMemo((): MeasurementContext => {
    if (!pair) return { machine: machine.machine, filament: null }
    return {
      ...measurementContext(
        { machine: machine.machine, filament: pair.filament.filament, recipe: pair.version.values },
        reading,
      ),
      inUse: record.inUse ?? undefined,
    }
  }, [machine, pair, reading, record.inUse])
  const input = useMemo(() => ({ measured, context }), [measured, context])
  const { data: evaluated, error: failed } = useComputed('measure', input)
  return (
    <>
      <div className={ui.pagehead}>
        <h1>{MEASURED_WORDS[measured.kind]}</h1>
        <span className={ui.faint}>
          {pair ? `${pair.filament.filament.name} on ` : ''}
          {machine.machine.name}, {ago(record.createdAt)}
          {record.version !== null && `, printed from version ${record.version}`}
        </span>
        <span className={clsx(ui.faint, ui.small)} role="status">
          {saving ? 'keeping …' : ''}
        </span>
      </div>
      {!!error && <Problem error={error} again={again} />}
      <div className={styles.two}>
        <section className={clsx(ui.sheet, ui.stack)} aria-label="What was read">
          <Boundary what="What was read">
            <Editor value={measured} machine={machine} outcome={evaluated ?? null} onChange={change} />
          </Boundary>
        </section>
        <section className={clsx(ui.sheet, ui.stack)} aria-label="What it says">
          <h2>What it says</h2>
          {!!failed && <Problem error={failed} />}
          {evaluated ? (
            <Boundary what="What it says">
              <MeasuredOutcome
                record={record}
                measured={measured}
                evaluated={evaluated}
                machine={machine.machine}
                pair={pair}
                settled={settled}
              />
            </Boundary>
          ) : (
            !failed && <Waiting tall={160} />
          )}
        </section>
      </div>
      <div className={ui.row} style={{ marginTop: 14 }}>
        {record.caseId && (
          <Link to={`/cases/${record.caseId}`}>
            <Button>Back to the case</Button>
          </Link>
        )}
        <Link to="/measure">All that was measured</Link>
      </div>
    </>
  )
}

function Editor({
  value,
  machine,
  outcome,
  onChange,
}: {
  value: Measured
  machine: MachineRecord
  outcome: Evaluated | null
  onChange: (value: Measured) => void
}) {
  if (value.kind === 'sizes')
    return (
      <SizesEditor
        value={value}
        outcome={outcome?.of === 'sizes' ? outcome.outcome : null}
        onChange={onChange}
      />
    )
  if (value.kind === 'bed') return <BedEditor value={value} machine={machine.machine} onChange={onChange} />
  if (value.kind === 'bands') return <BandsEditor value={value} onChange={onChange} />
  if (value.kind === 'ripples') return <RipplesEditor value={value} onChange={onChange} />
  return isSimple(value.kind) ? (
    <SimpleEditor value={value as Extract<Measured, { kind: SimpleKind }>} onChange={onChange} />
  ) : null
}

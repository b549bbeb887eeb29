import { Button, Progress } from 'antd'
import { bytes, duration, quantity } from '@verimend/core/quantity'
import type { HeightRange, QuantityId } from '@verimend/core/toolpath'
import { say } from '@verimend/core/words'
import type { CaseFile, CaseMark, PairDetail } from '@verimend/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { useCaseChange } from '../api/queries'
import { Findings } from '../paths/Findings'
import { useFindings } from '../paths/useFindings'
import { HeightSheet } from '../paths/HeightSheet'
import { MarkMatches } from '../paths/MarkMatches'
import { ReadingFigures, ReadingNotes } from '../paths/ReadingView'
import { ago } from '../components/format'
import { useKeptState } from '../components/useKeptState'
import { Problem } from '../components/states'
import { jobs, useJob, wasEnded } from '../work/jobs'
import { keepFile } from '../workers/keepFile'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './CaseFileEntry.module.css'

/** A path file in a case: findings, heights to mark the flaw on, and the figures. */
export function CaseFileEntry({
  caseId,
  file: f,
  marks,
  closed,
  pair,
  current,
  onRemove,
}: {
  caseId: string
  file: CaseFile
  marks: readonly CaseMark[]
  closed: boolean
  pair: PairDetail
  current: boolean
  onRemove: () => void
}) {
  const own = marks.filter((m) => m.fileId === f.id)
  // marked heights that are no evidence yet outlive the page; once they are, the case keeps them
  const [ranges, setRanges, forget] = useKeptState<HeightRange[]>(
    `draft.heights.${f.id}`,
    own.at(-1)?.heightRanges ?? [],
  )
  const [open, setOpen] = useState(false)
  const add = useCaseChange(caseId, (quantity: QuantityId) =>
    api.cases.addMark(caseId, f.id, ranges, quantity),
  )
  const drop = useCaseChange(caseId, (id: string) => api.cases.removeMark(caseId, id))
  const findings = useFindings(open ? f.reading : null, pair)
  return (
    <details className={styles.filebox} open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <strong className={ui.wrap}>{f.name}</strong>{' '}
        <span className={ui.faint}>
          {bytes(f.bytes)}, {ago(f.createdAt)}
          {f.afterAttempt ? `, after attempt ${f.afterAttempt}` : ''}: {f.reading.layerCount} layers,{' '}
          {quantity(f.reading.height, 'mm', 1)}, {duration(f.reading.seconds)},{' '}
          {quantity(f.reading.filament.mass, 'g', 1)}
        </span>
        {!current && (
          <span className={ui.tag} style={{ marginLeft: 8 }}>
            earlier
          </span>
        )}
        {f.kept && (
          <span className={clsx(ui.tag, ui.good)} style={{ marginLeft: 8 }}>
            kept whole
          </span>
        )}
      </summary>
      {own.map((m) => (
        <div
          key={m.id}
          className={clsx(ui.notice, ui.row, ui.between)}
          style={{ marginTop: 8 }}
          data-evidence={m.quantity}
        >
          <span>Marked on the part: {say(m.reason)}</span>
          {!closed && (
            <Button size="small" type="text" onClick={() => drop.mutate(m.id)}>
              No evidence after all
            </Button>
          )}
        </div>
      ))}
      {open && (
        <div className={ui.stack} style={{ marginTop: 10 }}>
          <Findings findings={findings} onPlace={(from, to) => setRanges([{ from, to }])} />
          <HeightSheet reading={f.reading} ranges={ranges} onRanges={setRanges} />
          <MarkMatches
            reading={f.reading}
            ranges={ranges}
            taken={own
              .filter((m) => JSON.stringify(m.heightRanges) === JSON.stringify(ranges))
              .map((m) => m.quantity)}
            onTake={closed ? undefined : (m) => add.mutate(m.id, { onSuccess: forget })}
          />
          {add.error && <Problem error={add.error} />}
          <ReadingFigures reading={f.reading} />
          <ReadingNotes reading={f.reading} />
          <div className={ui.row}>
            <Link to={`/paths?case=${caseId}&file=${f.id}`}>Look closer on the paths screen</Link>
            {!closed && (
              <Button size="small" onClick={onRemove}>
                Take it out
              </Button>
            )}
          </div>
        </div>
      )}
    </details>
  )
}

/** Offers to keep the file itself with the case, so that its layers can be looked at later. */
export function KeepOffer({
  file,
  sha256,
  to,
  onKept,
}: {
  file: File
  sha256: string
  /** The screen it is offered on. */
  to: string
  onKept: () => void
}) {
  const slot = `keep ${sha256}`
  const job = useJob(slot)
  const share = job?.share ?? null
  const [error, setError] = useState<unknown>(null)
  const send = () => {
    setError(null)
    jobs
      .run({ slot, kind: 'keeping', name: file.name, to }, (onShare, signal) =>
        keepFile(file, sha256, onShare, signal),
      )
      .then(onKept, (e: unknown) => {
        if (!wasEnded(e)) setError(e)
      })
  }
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        <span className={ui.faint}>
          Only the reading of {file.name} is kept. With the file itself ({bytes(file.size)}) its layers can be
          looked at later.
        </span>
        {share === null ? (
          <Button size="small" onClick={send}>
            Keep the file too
          </Button>
        ) : (
          <>
            <Progress
              aria-label="Keeping the file"
              percent={Math.round(share * 100)}
              size="small"
              style={{ width: 160 }}
            />
            <Button size="small" onClick={() => jobs.cancel(slot)}>
              Cancel
            </Button>
          </>
        )}
      </div>
      {!!error && <Problem error={error} again={send} />}
    </div>
  )
}

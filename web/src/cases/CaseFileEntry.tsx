import { Button, Progress } from 'antd'
import { bytes, duration, findingContext, findingsOf, quantity, type Mark } from '@verimend/core'
import type { CaseDetail, CaseFile, PairDetail } from '@verimend/contract'
import { useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { useCaseChange } from '../api/queries'
import { Findings } from '../paths/Findings'
import { HeightSheet, MarkMatches } from '../paths/HeightSheet'
import { ReadingFigures, ReadingNotes } from '../paths/ReadingView'
import { ago } from '../parts/format'
import { Problem } from '../parts/Problem'
import { keepFile } from '../workers/keepFile'

/** A path file in a case: findings, heights to mark the flaw on, and the figures. */
export function CaseFileEntry({
  c,
  f,
  pair,
  current,
  onRemove,
}: {
  c: CaseDetail
  f: CaseFile
  pair: PairDetail
  current: boolean
  onRemove: () => void
}) {
  const own = c.marks.filter((m) => m.fileId === f.id)
  const [marks, setMarks] = useState<Mark[]>(own.at(-1)?.marks ?? [])
  const [open, setOpen] = useState(false)
  const add = useCaseChange(c.id, (quantity: string) => api.cases.addMark(c.id, f.id, marks, quantity))
  const drop = useCaseChange(c.id, (id: string) => api.cases.removeMark(c.id, id))
  const findings = useMemo(
    () =>
      findingsOf(
        f.reading,
        findingContext({
          machine: pair.machine.machine,
          filament: pair.filament.filament,
          recipe: pair.version.values,
        }),
      ),
    [f.reading, pair],
  )
  const closed = c.status === 'closed'
  return (
    <details className="filebox" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <strong className="wrap">{f.name}</strong>{' '}
        <span className="faint">
          {bytes(f.bytes)}, {ago(f.createdAt)}
          {f.afterAttempt ? `, after attempt ${f.afterAttempt}` : ''}: {f.reading.layerCount} layers,{' '}
          {quantity(f.reading.height, 'mm', 1)}, {duration(f.reading.seconds)},{' '}
          {quantity(f.reading.filament.mass, 'g', 1)}
        </span>
        {!current && (
          <span className="tag" style={{ marginLeft: 8 }}>
            earlier
          </span>
        )}
        {f.kept && (
          <span className="tag good" style={{ marginLeft: 8 }}>
            kept whole
          </span>
        )}
      </summary>
      {own.map((m) => (
        <div key={m.id} className="notice row between" style={{ marginTop: 8 }} data-evidence={m.quantity}>
          <span>Marked on the part: {m.sentence}</span>
          {!closed && (
            <Button size="small" type="text" onClick={() => drop.mutate(m.id)}>
              No evidence after all
            </Button>
          )}
        </div>
      ))}
      {open && (
        <div className="stack" style={{ marginTop: 10 }}>
          <Findings list={findings} onPlace={(from, to) => setMarks([{ from, to }])} />
          <HeightSheet reading={f.reading} marks={marks} onMarks={setMarks} />
          <MarkMatches
            reading={f.reading}
            marks={marks}
            taken={own
              .filter((m) => JSON.stringify(m.marks) === JSON.stringify(marks))
              .map((m) => m.quantity)}
            onTake={closed ? undefined : (m) => add.mutate(m.id)}
          />
          {add.error && <Problem error={add.error} />}
          <ReadingFigures reading={f.reading} />
          <ReadingNotes reading={f.reading} />
          <div className="row">
            <Link to={`/paths?case=${c.id}&file=${f.id}`}>Look closer on the paths screen</Link>
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
export function KeepOffer({ file, sha256, onKept }: { file: File; sha256: string; onKept: () => void }) {
  const [share, setShare] = useState<number | null>(null)
  const [error, setError] = useState<unknown>(null)
  const stop = useRef<AbortController | null>(null)
  useEffect(() => () => stop.current?.abort(), [])
  const send = () => {
    stop.current = new AbortController()
    setError(null)
    setShare(0)
    keepFile(file, sha256, setShare, stop.current.signal).then(onKept, (e: unknown) => {
      setShare(null)
      if (!stop.current?.signal.aborted) setError(e)
    })
  }
  return (
    <div className="stack" style={{ gap: 6 }}>
      <div className="row">
        <span className="faint">
          Only the reading of {file.name} is kept. With the file itself ({bytes(file.size)}) its layers can be
          looked at later.
        </span>
        {share === null ? (
          <Button size="small" onClick={send}>
            Keep the file too
          </Button>
        ) : (
          <>
            <Progress percent={Math.round(share * 100)} size="small" style={{ width: 160 }} />
            <Button size="small" onClick={() => stop.current?.abort()}>
              Cancel
            </Button>
          </>
        )}
      </div>
      {!!error && <Problem error={error} again={send} />}
    </div>
  )
}

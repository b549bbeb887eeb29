import { Button, Progress, Select } from 'antd'
import { duration, quantity, type Mark } from '@verimend/core'
import type { CaseDetail, CaseFile, PairDetail } from '@verimend/contract'
import { useQueries } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { api } from '../api/client'
import { useCase, useCaseChange, useCases, usePair } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { readingContext } from '../pairs/readingContext'
import { ago } from '../parts/format'
import { Empty, Loaded, Problem } from '../parts/Problem'
import { useReadGcode, type Opened } from '../workers/useReadGcode'
import { FileDrop } from './FileDrop'
import { PathBench, type PathSide } from './PathBench'

/** The app's microscope: a file dropped here, or one that a case of this pair keeps. */
export default function PathsScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  const [params, setParams] = useSearchParams()
  const caseId = params.get('case')
  const fileId = params.get('file')
  if (!pairId) return <Empty>Choose a pair first: its machine decides times and limits.</Empty>
  return (
    <Loaded query={pair}>
      {(p) =>
        caseId && fileId ? (
          <OfCase
            key={fileId}
            caseId={caseId}
            fileId={fileId}
            pair={p}
            onLeave={() => setParams({}, { replace: false })}
          />
        ) : (
          <Dropped key={p.id} pair={p} />
        )
      }
    </Loaded>
  )
}

/** Path files that cases of the pair hold, newest first. */
function useFilesOf(pairId: string): { c: CaseDetail; f: CaseFile }[] {
  const cases = useCases()
  const own = (cases.data ?? []).filter((c) => c.pairId === pairId).slice(0, 20)
  const details = useQueries({
    queries: own.map((c) => ({ queryKey: ['case', c.id], queryFn: () => api.cases.one(c.id) })),
  })
  return details
    .flatMap((d) => (d.data ? d.data.files.map((f) => ({ c: d.data, f })) : []))
    .sort((x, y) => y.f.createdAt.localeCompare(x.f.createdAt))
}

function Dropped({ pair }: { pair: PairDetail }) {
  const [opened, setOpened] = useState<Opened | null>(null)
  const [marks, setMarks] = useState<Mark[]>([])
  const files = useFilesOf(pair.id)
  const context = useMemo(() => readingContext(pair), [pair])
  return (
    <>
      <div className="pagehead">
        <h1>Paths</h1>
        <span className="faint wrap">
          {opened ? opened.name : 'What a G-code file really tells this machine, whatever wrote it.'}
        </span>
      </div>
      <div className="stack">
        <FileDrop
          context={context}
          keepOpen
          onRead={(f) => {
            setOpened(f)
            setMarks([])
          }}
          hint={opened ? 'Drop another file here.' : 'Drop a G-code file here. Nothing of it is kept.'}
        />
        {!opened && files.length > 0 && (
          <section className="sheet stack" aria-label="Files of this pair’s cases">
            <h2>Files of this pair’s cases</h2>
            <table className="plain">
              <tbody>
                {files.map(({ c, f }) => (
                  <tr key={f.id}>
                    <td>
                      <Link to={`/paths?case=${c.id}&file=${f.id}`} className="wrap">
                        {f.name}
                      </Link>
                    </td>
                    <td className="wrap">{c.part}</td>
                    <td className="num figure">{quantity(f.reading.height, 'mm', 1)}</td>
                    <td className="num figure">{duration(f.reading.seconds)}</td>
                    <td>
                      {f.kept ? (
                        <span className="tag good">kept whole</span>
                      ) : (
                        <span className="tag">reading</span>
                      )}
                    </td>
                    <td className="faint">{ago(f.createdAt)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )}
        {opened && (
          <WithOther
            key={opened.sha256}
            side={opened}
            pair={pair}
            files={files}
            marks={marks}
            onMarks={setMarks}
          />
        )}
      </div>
    </>
  )
}

function OfCase({
  caseId,
  fileId,
  pair,
  onLeave,
}: {
  caseId: string
  fileId: string
  pair: PairDetail
  onLeave: () => void
}) {
  const query = useCase(caseId)
  return (
    <Loaded query={query}>
      {(c) => {
        const f = c.files.find((x) => x.id === fileId)
        return f ? (
          <CaseFileBench c={c} f={f} pair={pair} />
        ) : (
          <Empty action={<Button onClick={onLeave}>To the paths</Button>}>
            This file was taken out of its case.
          </Empty>
        )
      }}
    </Loaded>
  )
}

function CaseFileBench({ c, f, pair }: { c: CaseDetail; f: CaseFile; pair: PairDetail }) {
  const files = useFilesOf(pair.id)
  const own = c.marks.filter((m) => m.fileId === f.id)
  const [marks, setMarks] = useState<Mark[]>(own.at(-1)?.marks ?? [])
  const [moves, setMoves] = useState<Opened | null>(null)
  const onRead = useCallback((o: Opened) => setMoves(o), [])
  const { state, read, stop } = useReadGcode(onRead, true)
  const add = useCaseChange(c.id, (quantity: string) => api.cases.addMark(c.id, f.id, marks, quantity))
  const drop = useCaseChange(c.id, (id: string) => api.cases.removeMark(c.id, id))
  const context = readingContext(pair)
  return (
    <>
      <div className="pagehead">
        <h1>Paths</h1>
        <span className="wrap">
          {f.name}, <Link to={`/cases/${c.id}`}>{c.part}</Link>
        </span>
      </div>
      <div className="stack">
        {own.length > 0 && (
          <section className="notice stack" style={{ gap: 4 }} aria-label="Evidence in the case">
            {own.map((m) => (
              <div key={m.id} className="row between">
                <span>{m.sentence}</span>
                <Button size="small" type="text" onClick={() => drop.mutate(m.id)}>
                  No evidence after all
                </Button>
              </div>
            ))}
          </section>
        )}
        {add.error && <Problem error={add.error} />}
        {state.kind === 'reading' && (
          <div className="row">
            <span>Reading {state.name}</span>
            <Progress percent={Math.round(state.share * 100)} size="small" style={{ width: 220 }} />
            <Button size="small" onClick={stop}>
              Cancel
            </Button>
          </div>
        )}
        {state.kind === 'failed' && <Problem error={new Error(state.message)} />}
        <WithOther
          side={{ name: f.name, reading: f.reading, layer: moves?.layer ?? null }}
          pair={pair}
          files={files.filter((x) => x.f.id !== f.id)}
          marks={marks}
          onMarks={setMarks}
          taken={own.filter((m) => JSON.stringify(m.marks) === JSON.stringify(marks)).map((m) => m.quantity)}
          onTake={c.status === 'open' ? (id) => add.mutate(id) : undefined}
          openLayers={
            f.kept ? () => read({ address: api.blobs.href(f.sha256), name: f.name }, context) : null
          }
        />
      </div>
    </>
  )
}

/** The bench with a second file to compare with: dropped, or one of the pair's cases. */
function WithOther({
  side,
  pair,
  files,
  marks,
  onMarks,
  taken,
  onTake,
  openLayers = null,
}: {
  side: PathSide
  pair: PairDetail
  files: { c: CaseDetail; f: CaseFile }[]
  marks: Mark[]
  onMarks: (m: Mark[]) => void
  taken?: string[]
  onTake?: (quantity: string) => void
  openLayers?: (() => void) | null
}) {
  const [other, setOther] = useState<PathSide | null>(null)
  const context = useMemo(() => readingContext(pair), [pair])
  return (
    <PathBench
      side={side}
      pair={pair}
      marks={marks}
      onMarks={onMarks}
      taken={taken}
      onTake={onTake && ((m) => onTake(m.id))}
      other={other}
      openLayers={openLayers}
      chooseOther={
        <div className="stack" style={{ gap: 8 }}>
          <FileDrop
            context={context}
            keepOpen
            onRead={(o) => setOther(o)}
            hint={other ? 'Drop another file to compare with.' : 'Drop the earlier file to compare with.'}
          />
          {files.length > 0 && (
            <Select
              placeholder="or choose one of this pair’s cases"
              aria-label="Compare with a file of a case"
              style={{ maxWidth: 420 }}
              onChange={(id: string) => {
                const found = files.find((x) => x.f.id === id)
                if (found) setOther({ name: found.f.name, reading: found.f.reading, layer: null })
              }}
              options={files.map(({ c, f }) => ({
                value: f.id,
                label: `${f.name}, ${c.part}, ${ago(f.createdAt)}`,
              }))}
            />
          )}
        </div>
      }
    />
  )
}

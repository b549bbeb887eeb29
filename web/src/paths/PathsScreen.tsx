import { Button, Progress, Select } from 'antd'
import { duration, quantity } from '@verimend/core/quantity'
import type { HeightRange, QuantityId } from '@verimend/core/toolpath'
import { say } from '@verimend/core/words'
import type { CaseDetail, CaseFile, CaseFileHead, PairDetail } from '@verimend/contract'
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { api } from '../api/client'
import { query, useCase, useCaseChange, useFilesOfPair, usePair } from '../api/queries'
import { useCurrentPair } from '../pairs/PairContext'
import { readingContext } from '../pairs/readingContext'
import { ago } from '../components/format'
import { useKeptState } from '../components/useKeptState'
import { Empty, Loaded, Problem } from '../components/states'
import { SendFile } from '../prints/SendFile'
import type { Opened } from '../workers/readInWorker'
import { useReadGcode } from '../workers/useReadGcode'
import { openFiles, useOpenFile } from '../work/openFiles'
import { FileDrop } from './FileDrop'
import type { WholeFile } from './StepsInFile'
import { PathBench, type PathSide } from './PathBench'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const NO_FILES: readonly CaseFileHead[] = []

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
            onLeave={() => setParams({}, { replace: false })}
          />
        ) : (
          <Dropped key={p.id} pair={p} />
        )
      }
    </Loaded>
  )
}

function Dropped({ pair }: { pair: PairDetail }) {
  const lasting = { slot: `paths ${pair.id}`, to: '/paths' }
  const opened = useOpenFile(lasting.slot)
  const files = useFilesOfPair(pair.id).data ?? NO_FILES
  const context = useMemo(() => readingContext(pair), [pair])
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Paths</h1>
        <span className={clsx(ui.faint, ui.wrap)}>
          {opened ? opened.name : 'What a G-code file really tells this machine, whatever wrote it.'}
        </span>
        {opened && (
          <Button size="small" onClick={() => openFiles.close(lasting.slot)}>
            Put it away
          </Button>
        )}
        {opened?.file && (
          <SendFile
            key={opened.sha256}
            pair={pair}
            name={opened.name}
            sha256={opened.sha256}
            file={opened.file}
          />
        )}
      </div>
      <div className={ui.stack}>
        <FileDrop
          context={context}
          keepOpen
          lasting={lasting}
          onRead={(f) => openFiles.put(lasting.slot, f)}
          hint={opened ? 'Drop another file here.' : 'Drop a G-code file here. Nothing of it is kept.'}
        />
        {!opened && files.length > 0 && (
          <section className={clsx(ui.sheet, ui.stack)} aria-label="Files of this pair’s cases">
            <h2>Files of this pair’s cases</h2>
            <table className={ui.plain}>
              <tbody>
                {files.map((f) => (
                  <tr key={f.id}>
                    <td>
                      <Link to={`/paths?case=${f.caseId}&file=${f.id}`} className={ui.wrap}>
                        {f.name}
                      </Link>
                    </td>
                    <td className={ui.wrap}>{f.part}</td>
                    <td className={clsx(ui.num, ui.figure)}>{quantity(f.grams, 'g', 1)}</td>
                    <td className={clsx(ui.num, ui.figure)}>{duration(f.seconds)}</td>
                    <td>
                      {f.kept ? (
                        <span className={clsx(ui.tag, ui.good)}>kept whole</span>
                      ) : (
                        <span className={ui.tag}>reading</span>
                      )}
                    </td>
                    <td className={ui.faint}>{ago(f.createdAt)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )}
        {opened && <DroppedBench key={opened.sha256} opened={opened} pair={pair} files={files} />}
      </div>
    </>
  )
}

/** A dropped file with the heights that are marked on it. */
function DroppedBench({
  opened,
  ...rest
}: {
  opened: Opened
  pair: PairDetail
  files: readonly CaseFileHead[]
}) {
  const [ranges, setRanges] = useState<HeightRange[]>([])
  return (
    <WithOther
      side={opened}
      ranges={ranges}
      onRanges={setRanges}
      whole={opened.file && { source: opened.file, sha256: opened.sha256, caseId: null }}
      {...rest}
    />
  )
}

function OfCase({ caseId, fileId, onLeave }: { caseId: string; fileId: string; onLeave: () => void }) {
  const query = useCase(caseId)
  return (
    <Loaded query={query}>
      {(c) => {
        const f = c.files.find((x) => x.id === fileId)
        return f ? (
          <CaseFileOfPair kase={c} file={f} />
        ) : (
          <Empty action={<Button onClick={onLeave}>To the paths</Button>}>
            This file was taken out of its case.
          </Empty>
        )
      }}
    </Loaded>
  )
}

/** A file of a case is held against the case's own pair, whichever is chosen at the top. */
function CaseFileOfPair({ kase, file }: { kase: CaseDetail; file: CaseFile }) {
  const own = usePair(kase.pairId)
  return <Loaded query={own}>{(pair) => <CaseFileBench kase={kase} file={file} pair={pair} />}</Loaded>
}

function CaseFileBench({ kase, file: f, pair }: { kase: CaseDetail; file: CaseFile; pair: PairDetail }) {
  const files = useFilesOfPair(pair.id).data ?? NO_FILES
  const own = kase.marks.filter((m) => m.fileId === f.id)
  // marked heights that are no evidence yet outlive the page; once they are, the case keeps them
  const [ranges, setRanges, forget] = useKeptState<HeightRange[]>(
    `draft.heights.${f.id}`,
    own.at(-1)?.heightRanges ?? [],
  )
  const [moves, setMoves] = useState<Opened | null>(null)
  const onRead = useCallback((o: Opened) => setMoves(o), [])
  const { state, read, stop } = useReadGcode(onRead, { keepOpen: true })
  const add = useCaseChange(kase.id, (quantity: QuantityId) =>
    api.cases.addMark(kase.id, f.id, ranges, quantity),
  )
  const drop = useCaseChange(kase.id, (id: string) => api.cases.removeMark(kase.id, id))
  const context = readingContext(pair)
  const side = useMemo(() => ({ name: f.name, reading: f.reading, layer: moves?.layer ?? null }), [f, moves])
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Paths</h1>
        <span className={ui.wrap}>
          {f.name}, <Link to={`/cases/${kase.id}`}>{kase.part}</Link>
        </span>
        {f.kept && <SendFile pair={pair} name={f.name} sha256={f.sha256} caseId={kase.id} />}
      </div>
      <div className={ui.stack}>
        {own.length > 0 && (
          <section className={clsx(ui.notice, ui.stack)} style={{ gap: 4 }} aria-label="Evidence in the case">
            {own.map((m) => (
              <div key={m.id} className={clsx(ui.row, ui.between)}>
                <span>{say(m.reason)}</span>
                <Button size="small" type="text" onClick={() => drop.mutate(m.id)}>
                  No evidence after all
                </Button>
              </div>
            ))}
          </section>
        )}
        {add.error && <Problem error={add.error} />}
        {state.kind === 'reading' && (
          <div className={ui.row}>
            <span>Reading {state.name}</span>
            <Progress
              aria-label="Reading the file"
              percent={Math.round(state.share * 100)}
              size="small"
              style={{ width: 220 }}
            />
            <Button size="small" onClick={stop}>
              Cancel
            </Button>
          </div>
        )}
        {state.kind === 'failed' && <Problem error={new Error(state.message)} />}
        <WithOther
          side={side}
          pair={pair}
          files={files.filter((x) => x.id !== f.id)}
          ranges={ranges}
          onRanges={setRanges}
          taken={own
            .filter((m) => JSON.stringify(m.heightRanges) === JSON.stringify(ranges))
            .map((m) => m.quantity)}
          onTake={
            kase.status === 'open' ? (quantity) => add.mutate(quantity, { onSuccess: forget }) : undefined
          }
          partHref={kase.partId ? `/parts/${kase.partId}` : undefined}
          whole={
            f.kept
              ? {
                  source: api.blobs.href(f.sha256),
                  sha256: f.sha256,
                  caseId: kase.status === 'open' ? kase.id : null,
                }
              : null
          }
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
  ranges,
  onRanges,
  taken,
  onTake,
  openLayers = null,
  partHref,
  whole,
}: {
  side: PathSide
  pair: PairDetail
  files: readonly CaseFileHead[]
  ranges: readonly HeightRange[]
  onRanges: (ranges: HeightRange[]) => void
  taken?: readonly string[]
  onTake?: (quantity: QuantityId) => void
  openLayers?: (() => void) | null
  partHref?: string
  whole: WholeFile | null
}) {
  const client = useQueryClient()
  const [fault, setFault] = useState<unknown>(null)
  const [other, setOther] = useState<PathSide | null>(null)
  const context = useMemo(() => readingContext(pair), [pair])
  /** Fetches the reading of a file of a case. */
  const choose = async (id: string) => {
    const head = files.find((f) => f.id === id)
    if (!head) return
    try {
      const kase = await client.ensureQueryData(query.case(head.caseId))
      const file = kase.files.find((f) => f.id === id)
      if (file) setOther({ name: file.name, reading: file.reading, layer: null })
      setFault(null)
    } catch (error) {
      setFault(error)
    }
  }
  return (
    <PathBench
      side={side}
      pair={pair}
      ranges={ranges}
      onRanges={onRanges}
      taken={taken}
      onTake={onTake && ((m) => onTake(m.id))}
      other={other}
      openLayers={openLayers}
      partHref={partHref}
      whole={whole}
      chooseOther={
        <div className={ui.stack} style={{ gap: 8 }}>
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
              onChange={(id: string) => void choose(id)}
              options={files.map((f) => ({
                value: f.id,
                label: `${f.name}, ${f.part}, ${ago(f.createdAt)}`,
              }))}
            />
          )}
          {!!fault && <Problem error={fault} />}
        </div>
      }
    />
  )
}

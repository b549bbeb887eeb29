import { Button, Progress } from 'antd'
import type { CreatePart } from '@verimend/contract'
import { MOST_BYTES, type DrawnUnit } from '@verimend/core/geometry'
import { bytes, figure, quantity } from '@verimend/core/quantity'
import { useEffect, useRef, useState } from 'react'
import { DropArea, FailedFile, FileField, useFileField } from '../components/files'
import { keepFile } from '../workers/keepFile'
import type { OpenedMesh } from '../workers/part.worker'
import { PartWork, wasEnded } from './partWork'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

type State =
  | { kind: 'idle' }
  | { kind: 'reading' | 'keeping'; name: string; share: number }
  | { kind: 'asking'; file: File; opened: OpenedMesh }
  | { kind: 'failed'; name: string; message: string }

/** What was put right in a mesh, in words; empty where nothing was. */
export function mendedWords({ mended: m }: Pick<OpenedMesh, 'mended'>): string {
  const some = (n: number, one: string, many: string) => (n ? `${figure(n, 0)} ${n === 1 ? one : many}` : '')
  return [
    m.insideOut ? 'everything looked inwards' : '',
    some(m.turned, 'face looked the wrong way', 'faces looked the wrong way'),
    some(m.doubled, 'face was there twice', 'faces were there twice'),
    some(m.withoutArea, 'face had no area', 'faces had no area'),
    some(m.holes, 'hole was closed', 'holes were closed'),
  ]
    .filter(Boolean)
    .join(', ')
}

const sizeWords = (size: readonly number[]) => `${size.map((v) => figure(v, 1)).join(' × ')} mm`
const meshOf = (o: OpenedMesh): CreatePart['mesh'] => ({
  sha256: o.sha256,
  fileName: o.fileName,
  bytes: o.bytes,
  unit: o.unit,
  faces: o.faces,
  size: o.size,
  volume: o.volume,
  mended: o.mended.withoutArea + o.mended.doubled + o.mended.turned + o.mended.holes,
})

/** Takes a mesh by drop, paste or choice, reads it in a worker, asks for its unit where that is in doubt, and keeps it. */
export function MeshDrop({
  hint,
  onMesh,
}: {
  hint: string
  onMesh: (mesh: CreatePart['mesh'], name: string) => Promise<unknown>
}) {
  const [state, setState] = useState<State>({ kind: 'idle' })
  const { input, choose } = useFileField()
  const running = useRef<{ work: PartWork; ending: AbortController } | null>(null)
  const stop = () => {
    running.current?.ending.abort()
    running.current?.work.end()
    running.current = null
    setState({ kind: 'idle' })
  }
  useEffect(
    () => () => {
      running.current?.ending.abort()
      running.current?.work.end()
    },
    [],
  )
  const failed = (name: string, error: unknown) => {
    if (wasEnded(error)) return
    setState({
      kind: 'failed',
      name,
      message: error instanceof Error ? error.message : 'It could not be read.',
    })
  }
  const open = async (file: File, unit: DrawnUnit | null) => {
    stop()
    const work = new PartWork()
    const ending = new AbortController()
    running.current = { work, ending }
    setState({ kind: 'reading', name: file.name, share: 0 })
    try {
      if (file.size > MOST_BYTES)
        throw new Error(`The file has ${bytes(file.size)}; ${bytes(MOST_BYTES)} is the most.`)
      const opened = await work.open(
        { source: file, name: file.name, unit },
        (share) => setState({ kind: 'reading', name: file.name, share }),
        ending.signal,
      )
      work.end()
      if (opened.units.length && unit === null) setState({ kind: 'asking', file, opened })
      else await keep(file, opened, ending)
    } catch (error) {
      failed(file.name, error)
    }
  }
  const keep = async (file: File, opened: OpenedMesh, ending = new AbortController()) => {
    running.current = { work: running.current?.work ?? new PartWork(), ending }
    setState({ kind: 'keeping', name: file.name, share: 0 })
    try {
      await keepFile(
        file,
        opened.sha256,
        (share) => setState({ kind: 'keeping', name: file.name, share }),
        ending.signal,
      )
      await onMesh(
        meshOf(opened),
        file.name
          .replace(/\.[a-z0-9]{1,4}$/i, '')
          .replace(/[-_]+/g, ' ')
          .trim() || 'Part',
      )
      setState({ kind: 'idle' })
    } catch (error) {
      failed(file.name, error)
    }
  }
  const take = ([file]: File[]) => void open(file, null)
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const file = e.clipboardData?.files[0]
      if (file) void open(file, null)
    }
    document.addEventListener('paste', paste)
    return () => document.removeEventListener('paste', paste)
  })
  return (
    <DropArea onFiles={take}>
      <FileField input={input} label="Mesh file" accept=".stl,.3mf,model/stl,model/3mf" onFiles={take} />
      {state.kind === 'reading' || state.kind === 'keeping' ? (
        <div className={ui.row} style={{ width: '100%' }}>
          <span className={ui.wrap}>
            {state.kind === 'reading' ? 'Reading' : 'Keeping'} {state.name}
          </span>
          <Progress
            aria-label="Reading the part"
            percent={Math.round(state.share * 100)}
            style={{ flex: 1, minWidth: 120 }}
            size="small"
          />
          <Button size="small" onClick={stop}>
            Cancel
          </Button>
        </div>
      ) : state.kind === 'asking' ? (
        <div
          className={clsx(ui.stack)}
          style={{ width: '100%', gap: 8 }}
          role="group"
          aria-label="In which unit is it drawn?"
        >
          <span className={ui.wrap}>
            {state.file.name} would be {sizeWords(state.opened.size)}. In which unit is it drawn?
          </span>
          <div className={ui.row}>
            {state.opened.units.map(({ unit, longest }) => (
              <Button key={unit} size="small" onClick={() => void open(state.file, unit)}>
                {unit}: {quantity(longest, 'mm', 1)} at its longest
              </Button>
            ))}
            <Button size="small" onClick={() => void keep(state.file, state.opened)}>
              mm, as it is
            </Button>
            <Button size="small" type="text" onClick={stop}>
              Leave it
            </Button>
          </div>
        </div>
      ) : (
        <>
          <span>{hint}</span>
          <Button size="small" onClick={choose}>
            Choose a file
          </Button>
        </>
      )}
      {state.kind === 'failed' && <FailedFile name={state.name} message={state.message} onDismiss={stop} />}
    </DropArea>
  )
}

import { Button, Progress } from 'antd'
import type { CreatePart } from '@verimend/contract'
import { MOST_BYTES, type DrawnUnit } from '@verimend/core/geometry'
import { bytes, figure, quantity } from '@verimend/core/quantity'
import { useEffect, useRef, useState } from 'react'
import { partNameOf } from '../components/partName'
import { DropArea, FailedFile, FileField, useFileField } from '../components/files'
import { jobs, useJob, wasEnded } from '../work/jobs'
import { keepFile } from '../workers/keepFile'
import type { OpenedMesh } from '../workers/part.worker'
import { PartWork } from './partWork'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** A mesh that waits for its unit. */
interface Asking {
  file: File
  opened: OpenedMesh
}
/** Of each screen, when it is left before it is answered. */
const unanswered = new Map<string, Asking>()

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

/** Reads a mesh in a worker of its own. */
async function readMesh(
  file: File,
  unit: DrawnUnit | null,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<OpenedMesh> {
  const work = new PartWork()
  try {
    return await work.open({ source: file, name: file.name, unit }, onShare, signal)
  } finally {
    work.end()
  }
}

/**
 * Takes a mesh by drop, paste or choice, reads it in a worker, asks for its unit where that is in doubt, and keeps it. It goes on
 * when the screen is left.
 */
export function MeshDrop({
  hint,
  to,
  onMesh,
}: {
  hint: string
  /** The screen it is on. */
  to: string
  /** @param here whether that screen is still open */
  onMesh: (mesh: CreatePart['mesh'], name: string, here: () => boolean) => Promise<unknown>
}) {
  const slot = `mesh ${to}`
  const job = useJob(slot)
  const [asking, setAsking] = useState<Asking | null>(() => unanswered.get(slot) ?? null)
  const [failed, setFailed] = useState<{ name: string; message: string } | null>(null)
  const { input, choose } = useFileField()
  const here = useRef(true)
  useEffect(() => {
    here.current = true
    return () => void (here.current = false)
  }, [])
  const ask = (asked: Asking | null) => {
    if (asked) unanswered.set(slot, asked)
    else unanswered.delete(slot)
    setAsking(asked)
  }
  const leave = () => {
    ask(null)
    setFailed(null)
  }
  const keep = async (
    file: File,
    opened: OpenedMesh,
    onShare: (share: number) => void,
    signal: AbortSignal,
  ) => {
    await keepFile(file, opened.sha256, onShare, signal)
    await onMesh(meshOf(opened), partNameOf(file.name) || 'Part', () => here.current)
  }
  /** Does something with a file in this screen's slot, and says what went wrong with it. */
  const work = (
    file: File,
    kind: 'reading' | 'keeping',
    what: (onShare: (share: number) => void, signal: AbortSignal) => Promise<unknown>,
  ) => {
    leave()
    jobs.run({ slot, kind, name: file.name, to }, what).catch((error: unknown) => {
      if (!wasEnded(error))
        setFailed({
          name: file.name,
          message: error instanceof Error ? error.message : 'It could not be read.',
        })
    })
  }
  const open = (file: File, unit: DrawnUnit | null) =>
    work(file, 'reading', async (onShare, signal) => {
      if (file.size > MOST_BYTES)
        throw new Error(`The file has ${bytes(file.size)}; ${bytes(MOST_BYTES)} is the most.`)
      const opened = await readMesh(file, unit, (share) => onShare(0.5 * share), signal)
      if (opened.units.length && unit === null) ask({ file, opened })
      else await keep(file, opened, (share) => onShare(0.5 + 0.5 * share), signal)
    })
  const take = ([file]: File[]) => open(file, null)
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const file = e.clipboardData?.files[0]
      if (file) open(file, null)
    }
    document.addEventListener('paste', paste)
    return () => document.removeEventListener('paste', paste)
  })
  return (
    <DropArea onFiles={take}>
      <FileField input={input} label="Mesh file" accept=".stl,.3mf,model/stl,model/3mf" onFiles={take} />
      {job ? (
        <div className={ui.row} style={{ width: '100%' }}>
          <span className={ui.wrap}>
            {job.kind === 'reading' ? 'Reading' : 'Keeping'} {job.name}
          </span>
          <Progress
            aria-label="Reading the part"
            percent={Math.round(job.share * 100)}
            style={{ flex: 1, minWidth: 120 }}
            size="small"
          />
          <Button size="small" onClick={() => jobs.cancel(slot)}>
            Cancel
          </Button>
        </div>
      ) : asking ? (
        <div
          className={clsx(ui.stack)}
          style={{ width: '100%', gap: 8 }}
          role="group"
          aria-label="In which unit is it drawn?"
        >
          <span className={ui.wrap}>
            {asking.file.name} would be {sizeWords(asking.opened.size)}. In which unit is it drawn?
          </span>
          <div className={ui.row}>
            {asking.opened.units.map(({ unit, longest }) => (
              <Button key={unit} size="small" onClick={() => open(asking.file, unit)}>
                {unit}: {quantity(longest, 'mm', 1)} at its longest
              </Button>
            ))}
            <Button
              size="small"
              onClick={() =>
                work(asking.file, 'keeping', (onShare, signal) =>
                  keep(asking.file, asking.opened, onShare, signal),
                )
              }
            >
              mm, as it is
            </Button>
            <Button size="small" type="text" onClick={leave}>
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
      {failed && <FailedFile {...failed} onDismiss={leave} />}
    </DropArea>
  )
}

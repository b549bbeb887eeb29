import type { PairDetail } from '@verimend/contract'
import { bytes, duration } from '@verimend/core/quantity'
import { asksPrintedWith, type SettingChange } from '@verimend/core/recipe'
import { listed, settingLabel } from '@verimend/core/words'
import { Button, Progress } from 'antd'
import { clsx } from 'clsx'
import { useEffect, useId, useRef, useState } from 'react'
import { newId } from '../api/ids'
import { DropArea, FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import ui from '../components/ui.module.css'
import { readingContext } from '../pairs/readingContext'
import { saveFile } from '../parts/saveFile'
import { jobs, useJob, wasEnded } from '../work/jobs'
import type { ChangedFile } from '../workers/changeFile.worker'
import { changeInWorker } from '../workers/changeInWorker'
import { compute } from '../workers/compute'
import { changedName, remarkOf, settingNow, settingThen } from './changedNames'

/** Files that may be packed into one, bytes together: they are all in memory by then. */
const MOST_PACKED = 300_000_000

interface Entry {
  id: string
  file: File
  /** null until it was tried. */
  result: ChangedFile | null
  fault: string | null
}

/** The same change in several files, each for itself; all of them as one ZIP. */
export function ChangeMany({ settings, pair }: { settings: readonly SettingChange[]; pair: PairDetail }) {
  const slot = `change ${useId()}`
  const job = useJob(slot)
  const { input, choose } = useFileField()
  const [entries, setEntries] = useState<readonly Entry[]>([])
  const [fault, setFault] = useState<unknown>(null)
  const [packing, setPacking] = useState(false)
  const running = useRef(false)
  useEffect(() => () => jobs.cancel(slot), [slot])
  // what was written with other values is not what is asked for any more
  const asked = JSON.stringify(settings)
  const [of, setOf] = useState(asked)
  if (of !== asked) {
    setOf(asked)
    setEntries(entries.map((e) => ({ ...e, result: null, fault: null })))
  }
  const { values } = pair.version
  const put = (id: string, patch: Partial<Entry>) =>
    setEntries((all) => all.map((e) => (e.id === id ? { ...e, ...patch } : e)))
  const add = (files: File[]) =>
    setEntries((all) => [...all, ...files.map((file) => ({ id: newId(), file, result: null, fault: null }))])
  const waiting = entries.filter((e) => !e.result && !e.fault)
  const done = entries.filter((e) => e.result)

  const change = async () => {
    if (running.current) return
    running.current = true
    // what a file shows of a setting is what it was printed with; what none shows is as it was said
    const each = settings.map((s) => (asksPrintedWith(s, values) ? s : { key: s.key, to: s.to }))
    try {
      for (const { id, file } of waiting) {
        try {
          const result = await jobs.run(
            { slot, kind: 'changing', name: file.name, to: '/paths' },
            (onShare, signal) =>
              changeInWorker(
                {
                  source: file,
                  settings: each,
                  recipe: values,
                  machine: pair.machine.machine,
                  context: readingContext(pair),
                  remark: remarkOf(file.name, each.map(settingThen), pair.current),
                },
                onShare,
                signal,
              ),
          )
          put(id, { result })
        } catch (error) {
          if (wasEnded(error)) return
          put(id, { fault: error instanceof Error ? error.message : 'The file could not be changed.' })
        }
      }
    } finally {
      running.current = false
    }
  }
  const nameOf = (e: Entry) => changedName(e.file.name, settings.map(settingNow))
  const together = done.reduce((sum, e) => sum + e.result!.blob.size, 0)
  const pack = async () => {
    setPacking(true)
    setFault(null)
    try {
      const files = await Promise.all(
        done.map(async (e) => ({
          name: nameOf(e),
          bytes: new Uint8Array(await e.result!.blob.arrayBuffer()),
        })),
      )
      saveFile('changed files.zip', await compute('zip', files), 'application/zip')
    } catch (error) {
      setFault(error)
    } finally {
      setPacking(false)
    }
  }
  return (
    <details>
      <summary>The same change in other files</summary>
      <div className={ui.stack} style={{ marginTop: 8 }}>
        <DropArea onFiles={add}>
          <FileField
            input={input}
            label="Other G-code files"
            accept=".gcode,.gco,.g,.nc,.ngc,.txt,text/plain"
            multiple
            onFiles={add}
          />
          <span>Drop the files here.</span>
          <Button size="small" onClick={choose}>
            Choose files
          </Button>
        </DropArea>
        {entries.length > 0 && (
          <ul className={ui.plainlist} aria-label="Other files">
            {entries.map((e) => (
              <li key={e.id} className={clsx(ui.row, ui.wrap)} data-file={e.file.name}>
                <strong className={ui.wrap}>{e.file.name}</strong>
                <Outcome entry={e} share={job?.name === e.file.name ? job.share : null} />
                {e.result && (
                  <Button size="small" onClick={() => saveFile(nameOf(e), e.result!.blob, 'text/plain')}>
                    Save it
                  </Button>
                )}
                <Button
                  size="small"
                  type="text"
                  disabled={!!job}
                  aria-label={`Take ${e.file.name} off the list`}
                  onClick={() => setEntries((all) => all.filter((o) => o.id !== e.id))}
                >
                  Take it off
                </Button>
              </li>
            ))}
          </ul>
        )}
        <div className={ui.row}>
          {job ? (
            <Button size="small" onClick={() => jobs.cancel(slot)}>
              Cancel
            </Button>
          ) : (
            waiting.length > 0 && (
              <Button size="small" type="primary" onClick={() => void change()}>
                {waiting.length === 1 ? 'Change this file' : `Change these ${waiting.length} files`}
              </Button>
            )
          )}
          {done.length > 1 && !job && together <= MOST_PACKED && (
            <Button size="small" loading={packing} onClick={() => void pack()}>
              Save all {done.length} as one ZIP
            </Button>
          )}
          {together > MOST_PACKED && (
            <span className={clsx(ui.faint, ui.small)}>
              Together they are {bytes(together)}, too much for one ZIP. Save them one by one.
            </span>
          )}
        </div>
        {!!fault && <Problem error={fault} />}
      </div>
    </details>
  )
}

/** What became of one file. */
function Outcome({ entry: { result, fault }, share }: { entry: Entry; share: number | null }) {
  if (share !== null && !result && !fault)
    return (
      <Progress
        aria-label="Changing the file"
        percent={Math.round(share * 100)}
        size="small"
        style={{ width: 140 }}
      />
    )
  if (fault) return <span className={clsx(ui.fault, ui.small)}>{fault}</span>
  if (!result) return <span className={clsx(ui.faint, ui.small)}>not changed yet</span>
  const { changed, inserted, removed } = result.summary
  const left = [...result.laidAnew, ...result.unknown].map(settingLabel)
  return (
    <span className={ui.small}>
      {changed + inserted + removed} {changed + inserted + removed === 1 ? 'line differs' : 'lines differ'},{' '}
      {duration(result.before.seconds)} → {duration(result.after.seconds)}
      {left.length > 0 && `; ${listed(left)} stayed as it was`}.
    </span>
  )
}

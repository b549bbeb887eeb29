import type { PairDetail } from '@verimend/contract'
import { duration, quantity } from '@verimend/core/quantity'
import type { SettingChange, SettingKey, ValuesOnly } from '@verimend/core/recipe'
import type { FileChange } from '@verimend/core/rewrite'
import { listed, settingLabel } from '@verimend/core/words'
import { Button, Progress } from 'antd'
import { clsx } from 'clsx'
import { useEffect, useId, useMemo, useState, type ReactNode } from 'react'
import { Boundary } from '../components/Boundary'
import { Problem } from '../components/states'
import ui from '../components/ui.module.css'
import { saveFile } from '../parts/saveFile'
import { readingContext } from '../pairs/readingContext'
import { SendFile } from '../prints/SendFile'
import { jobs, useJob, wasEnded } from '../work/jobs'
import type { ChangedFile } from '../workers/changeFile.worker'
import { changeInWorker } from '../workers/changeInWorker'
import type { LayerSource } from '../workers/readInWorker'
import { changedName, remarkOf, settingNow, settingThen } from './changedNames'
import { CompareView } from './CompareView'
import { FindingsApart } from './FindingsApart'
import styles from './ChangedFileView.module.css'

/** Something done in a file that is no setting, and what it is called. */
export interface Besides {
  change: FileChange
  name: string
}

/** Writes a file with changes, and shows what becomes of it before it is taken. */
export function ChangedFileView({
  source,
  name,
  settings,
  besides,
  recipe,
  pair,
  label,
  onSave,
  children,
}: {
  /** The file as it was, or the address of one that is kept. */
  source: File | string
  name: string
  settings: readonly SettingChange[]
  besides?: Besides
  recipe: ValuesOnly
  pair: PairDetail
  /** Of the button that begins it. */
  label: string
  /** Told when the new file is taken. */
  onSave?: (file: File, changed: ChangedFile) => void
  /** What can be done with the new file before it is saved. */
  children?: (file: File, changed: ChangedFile) => ReactNode
}) {
  const slot = `change ${useId()}`
  const job = useJob(slot)
  const [changed, setChanged] = useState<{ file: File; result: ChangedFile } | null>(null)
  const [failed, setFailed] = useState<unknown>(null)
  useEffect(() => () => jobs.cancel(slot), [slot])
  const also = besides ? [besides.name] : []
  const write = () => {
    setFailed(null)
    setChanged(null)
    jobs
      .run({ slot, kind: 'changing', name, to: '/paths' }, (onShare, signal) =>
        changeInWorker(
          {
            source,
            settings,
            more: besides ? [besides.change] : [],
            recipe,
            machine: pair.machine.machine,
            context: readingContext(pair),
            remark: remarkOf(name, [...settings.map(settingThen), ...also], pair.current),
          },
          onShare,
          signal,
        ),
      )
      .then(
        (result) =>
          setChanged({
            result,
            file: new File([result.blob], changedName(name, [...settings.map(settingNow), ...also]), {
              type: 'text/plain',
            }),
          }),
        (error: unknown) => {
          if (!wasEnded(error)) setFailed(error)
        },
      )
  }
  return (
    <div className={ui.stack}>
      {job ? (
        <div className={ui.row}>
          <span>Changing {name}</span>
          <Progress
            aria-label="Changing the file"
            percent={Math.round(job.share * 100)}
            size="small"
            style={{ width: 200 }}
          />
          <Button size="small" onClick={() => jobs.cancel(slot)}>
            Cancel
          </Button>
        </div>
      ) : (
        !changed && (
          <div className={ui.row}>
            <Button type="primary" disabled={!settings.length && !besides} onClick={write}>
              {label}
            </Button>
          </div>
        )
      )}
      {!!failed && <Problem error={failed} />}
      {changed && (
        <Result name={name} pair={pair} {...changed} onSave={onSave}>
          {children?.(changed.file, changed.result)}
        </Result>
      )}
    </div>
  )
}

const layersOf =
  ({ layers }: ChangedFile, side: 'before' | 'after'): LayerSource =>
  (layer) => {
    const found = layers.find((l) => l[side].layer === layer)
    return found ? Promise.resolve(found[side]) : Promise.reject(new Error('not kept'))
  }

const lines = (n: number) => `${n} ${n === 1 ? 'line' : 'lines'}`

/** The new file against the old one. */
function Result({
  name,
  file,
  result: r,
  pair,
  onSave,
  children,
}: {
  name: string
  file: File
  result: ChangedFile
  pair: PairDetail
  onSave?: (file: File, changed: ChangedFile) => void
  children: ReactNode
}) {
  const { changed, inserted, removed, examples } = r.summary
  const [before, after] = useMemo(() => (['before', 'after'] as const).map((side) => layersOf(r, side)), [r])
  const done = [
    changed > 0 && `${lines(changed)} changed`,
    inserted > 0 && `${lines(inserted)} added`,
    removed > 0 && `${lines(removed)} removed`,
  ].filter((t): t is string => !!t)
  return (
    <section className={ui.stack} aria-label="The changed file">
      <p>
        <strong>{listed(done)}</strong> of {r.before.lines.toLocaleString('en')}. Every other line is the
        same, byte for byte; one line at the top says what was changed. {duration(r.before.seconds)} →{' '}
        {duration(r.after.seconds)}, {quantity(r.before.filament.mass, 'g', 1)} →{' '}
        {quantity(r.after.filament.mass, 'g', 1)}.
      </p>
      {r.after.build.skirtLoops < r.before.build.skirtLoops && (
        <p className={ui.notice}>
          The skirt is left out, because these lines need its place. They prime the nozzle just as well.
        </p>
      )}
      <NotWritten keys={r.laidAnew} why="needs new paths, so set it in the program that makes your files" />
      <NotWritten keys={r.unknown} why="is not known for this file, so it stays as it was" />
      <div className={ui.row}>
        {children ?? <SendFile pair={pair} name={file.name} sha256={r.sha256} file={file} />}
        <Button
          type="primary"
          onClick={() => {
            saveFile(file.name, file, 'text/plain')
            onSave?.(file, r)
          }}
        >
          Save the changed file
        </Button>
      </div>
      <FindingsApart before={r.before} after={r.after} pair={pair} />
      <details>
        <summary>The first lines that differ</summary>
        <table className={clsx(ui.plain, styles.lines)}>
          <thead>
            <tr>
              <th className={ui.num}>Line</th>
              <th>Before</th>
              <th>Now</th>
            </tr>
          </thead>
          <tbody>
            {examples.slice(0, 12).map((e, i) => (
              <tr key={i}>
                <td className={clsx(ui.num, ui.figure)}>{e.line}</td>
                <td className={ui.figure}>{e.before ?? <span className={ui.faint}>(new line)</span>}</td>
                <td className={ui.figure}>{e.after ?? <span className={ui.faint}>(removed)</span>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      <details>
        <summary>Both files side by side</summary>
        <Boundary what="The comparison">
          <CompareView
            a={{ name, reading: r.before, layer: before }}
            b={{ name: file.name, reading: r.after, layer: after }}
            context={readingContext(pair)}
            layers={r.layers.map((l) => l.after.layer)}
          />
        </Boundary>
      </details>
    </section>
  )
}

function NotWritten({ keys, why }: { keys: readonly SettingKey[]; why: string }) {
  if (!keys.length) return null
  return (
    <p className={clsx(ui.notice, ui.caution)}>
      {listed(keys.map(settingLabel))}: {why}.
    </p>
  )
}

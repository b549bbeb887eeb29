import { useQueryClient } from '@tanstack/react-query'
import type { Attempt, CaseDetail, PairDetail } from '@verimend/contract'
import {
  asksPrintedWith,
  settingOf,
  writesIntoFile,
  type SettingChange,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'
import { listed, settingLabel, valueText } from '@verimend/core/words'
import { Button, Checkbox, Progress } from 'antd'
import { clsx } from 'clsx'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, type PrintedFile } from '../api/client'
import { keys } from '../api/keys'
import { Problem } from '../components/states'
import ui from '../components/ui.module.css'
import { readingContext } from '../pairs/readingContext'
import { ChangedFileView } from '../paths/ChangedFileView'
import { FileDrop } from '../paths/FileDrop'
import { PrintedAt } from '../paths/PrintedAt'
import { SendFile } from '../prints/SendFile'
import { jobs, useJob, wasEnded } from '../work/jobs'
import type { ChangedFile } from '../workers/changeFile.worker'
import { keepFile } from '../workers/keepFile'
import { KEPT_UNASKED } from './keptUnasked'
import type { CaseActions } from './useCaseActions'

/** How the change of an attempt gets into a print: written into the file that was printed, or set by hand elsewhere. */
export default function CarryOut({
  kase,
  attempt,
  pair,
  actions,
}: {
  kase: Pick<CaseDetail, 'id' | 'files' | 'partId'>
  attempt: Attempt
  pair: PairDetail
  actions: CaseActions
}) {
  const client = useQueryClient()
  const [dropped, setDropped] = useState<File | null>(null)
  const slot = `keep for ${kase.id}`
  const keeping = useJob(slot)
  /** A file that could not be kept, and how it is tried again. */
  const [failed, setFailed] = useState<{ error: unknown; again: () => void } | null>(null)
  /** What was printed with, where no file shows it and the recipe may not be what was printed. */
  const [printed, setPrinted] = useState<Partial<Record<SettingKey, SettingValue>>>({})
  const settings = attempt.mends
    .flatMap((m): SettingChange[] =>
      m.kind === 'setting'
        ? [{ key: m.key, from: m.from, to: m.to }]
        : (m.departs ?? []).map((d) => ({ key: d.setting, from: d.file, to: d.recipe })),
    )
    .map((s) => ({ ...s, from: printed[s.key] ?? s.from }))
  if (!settings.length) return null
  const own = settings.filter((s) => writesIntoFile(s.key))
  const anew = settings.filter((s) => !writesIntoFile(s.key))
  const before = kase.files.filter((f) => f.afterAttempt < attempt.number && f.kept).at(-1)
  const made = kase.files.filter((f) => f.afterAttempt >= attempt.number).at(-1)
  /** Takes a file in as one of the case, whole where it is not too large. */
  const note = (file: PrintedFile, whole: File) => {
    actions.addFile(file)
    if (whole.size <= KEPT_UNASKED) keep(file, whole)
  }
  const keep = (file: PrintedFile, whole: File) => {
    setFailed(null)
    jobs
      .run({ slot, kind: 'keeping', name: file.name, to: `/cases/${kase.id}` }, (onShare, signal) =>
        keepFile(whole, file.sha256, onShare, signal),
      )
      .then(
        () => void client.invalidateQueries({ queryKey: keys.cases.one(kase.id) }),
        // its reading is in the case all the same
        (error: unknown) => {
          if (!wasEnded(error)) setFailed({ error, again: () => keep(file, whole) })
        },
      )
  }
  const printedFile = (file: File, { sha256, after }: ChangedFile): PrintedFile => ({
    name: file.name,
    bytes: file.size,
    sha256,
    reading: after,
  })
  const source = dropped ?? (before ? api.blobs.href(before.sha256) : null)
  const name = dropped?.name ?? before?.name ?? ''
  return (
    <section className={ui.stack} aria-label="Make the change">
      {own.length > 0 && !made && (
        <>
          <p>Verimend can write this change into the file you printed and leave every other line as it is.</p>
          {source &&
            own
              .filter((s) => asksPrintedWith(s, pair.version.values))
              .map((s) => (
                <div key={s.key} className={ui.row}>
                  <strong>{settingLabel(s.key)}</strong>
                  <PrintedAt
                    change={s}
                    onChange={({ key, from }) => setPrinted((known) => ({ ...known, [key]: from }))}
                  />
                  <span>{valueText(s.key, s.to)}</span>
                  <span className={clsx(ui.faint, ui.small)}>
                    A file does not show this: say what it was printed with.
                  </span>
                </div>
              ))}
          {source ? (
            <ChangedFileView
              key={`${name} ${JSON.stringify(printed)}`}
              source={source}
              name={name}
              settings={settings}
              recipe={pair.version.values}
              pair={pair}
              label={`Change ${name}`}
              onSave={(file, result) => note(printedFile(file, result), file)}
            >
              {(file, result) => (
                <SendFile
                  pair={pair}
                  name={file.name}
                  sha256={result.sha256}
                  file={file}
                  caseId={kase.id}
                  onKept={() => actions.addFile(printedFile(file, result))}
                />
              )}
            </ChangedFileView>
          ) : (
            <FileDrop
              context={readingContext(pair)}
              hint="Drop the G-code file of the bad print, and the change is written into it."
              onRead={({ name, bytes, sha256, reading, file }) => {
                setDropped(file)
                if (file) note({ name, bytes, sha256, reading, afterAttempt: attempt.number - 1 }, file)
              }}
            />
          )}
        </>
      )}
      {failed && <Problem {...failed} />}
      {made && (
        <div className={ui.row}>
          <span>
            <strong className={ui.wrap}>{made.name}</strong> carries this change.
          </span>
          {made.kept ? (
            <Button href={api.blobs.href(made.sha256)} download={made.name}>
              Save {made.name}
            </Button>
          ) : (
            keeping && (
              <Progress
                aria-label="Keeping the file"
                percent={Math.round(keeping.share * 100)}
                size="small"
                style={{ width: 160 }}
              />
            )
          )}
        </div>
      )}
      {anew.length > 0 && (
        <p className={ui.notice}>
          {listed(anew.map((s) => settingLabel(s.key)))}: the part needs new paths for this.{' '}
          {kase.partId ? (
            <Link to={`/parts/${kase.partId}`}>Plan it again under Parts</Link>
          ) : (
            'Set it in the program that makes your files.'
          )}
        </p>
      )}
      <details open={own.length === 0}>
        <summary>Set it yourself</summary>
        <ul className={ui.plainlist} aria-label="Settings to change">
          {settings.map((s) => (
            <li key={s.key}>
              <Checkbox>
                {settingLabel(s.key)}: {s.from === undefined ? '' : `${valueText(s.key, s.from)} → `}
                <strong>{valueText(s.key, s.to)}</strong>
              </Checkbox>{' '}
              <AlsoCalled words={settingOf(s.key).aka} />
            </li>
          ))}
        </ul>
      </details>
      {anew.length === 0 && kase.partId && (
        <p className={clsx(ui.small, ui.faint)}>
          Or <Link to={`/parts/${kase.partId}`}>plan the part again under Parts</Link>, with this change in
          the recipe.
        </p>
      )}
    </section>
  )
}

const AlsoCalled = ({ words }: { words: readonly string[] | undefined }) =>
  words?.length ? <span className={ui.faint}>also called {listed(words, 'or')}</span> : null

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
import { api } from '../api/client'
import { keys } from '../api/keys'
import { DropArea, FileField, useFileField } from '../components/files'
import { Problem } from '../components/states'
import ui from '../components/ui.module.css'
import { ChangedFileView } from '../paths/ChangedFileView'
import { PrintedAt } from '../paths/PrintedAt'
import { jobs, useJob, wasEnded } from '../work/jobs'
import type { ChangedFile } from '../workers/changeFile.worker'
import { keepFile } from '../workers/keepFile'
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
  const [dropped, setDropped] = useState<File | null>(null)
  const { input, choose } = useFileField()
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
            >
              {(file, result) => (
                <KeepWithCase caseId={kase.id} file={file} result={result} onKept={actions.addFile} />
              )}
            </ChangedFileView>
          ) : (
            <DropArea onFiles={([file]) => setDropped(file)}>
              <FileField
                input={input}
                label="The file that was printed"
                accept=".gcode,.gco,.g,.nc,.ngc,.txt,text/plain"
                onFiles={([file]) => setDropped(file)}
              />
              <span>Drop the G-code file that was printed.</span>
              <Button size="small" onClick={choose}>
                Choose the file
              </Button>
            </DropArea>
          )}
        </>
      )}
      {made?.kept && (
        <div className={ui.row}>
          <Button href={api.blobs.href(made.sha256)} download={made.name}>
            Save {made.name}
          </Button>
        </div>
      )}
      {anew.length > 0 && (
        <p className={clsx(ui.notice)}>
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
    </section>
  )
}

const AlsoCalled = ({ words }: { words: readonly string[] | undefined }) =>
  words?.length ? <span className={ui.faint}>also called {listed(words, 'or')}</span> : null

/** Keeps the new file with the case, so that it can be printed from here and counts as what was printed. */
function KeepWithCase({
  caseId,
  file,
  result,
  onKept,
}: {
  caseId: string
  file: File
  result: ChangedFile
  onKept: CaseActions['addFile']
}) {
  const client = useQueryClient()
  const slot = `keep ${result.sha256}`
  const job = useJob(slot)
  const [error, setError] = useState<unknown>(null)
  const keep = () => {
    setError(null)
    jobs
      .run({ slot, kind: 'keeping', name: file.name, to: `/cases/${caseId}` }, (onShare, signal) =>
        keepFile(file, result.sha256, onShare, signal),
      )
      .then(
        () => {
          onKept({ name: file.name, bytes: file.size, sha256: result.sha256, reading: result.after })
          void client.invalidateQueries({ queryKey: keys.cases.one(caseId) })
        },
        (e: unknown) => {
          if (!wasEnded(e)) setError(e)
        },
      )
  }
  return (
    <>
      {job ? (
        <Progress
          aria-label="Keeping the file"
          percent={Math.round(job.share * 100)}
          size="small"
          style={{ width: 160 }}
        />
      ) : (
        <Button onClick={keep}>Keep it with this case</Button>
      )}
      {!!error && <Problem error={error} again={keep} />}
    </>
  )
}

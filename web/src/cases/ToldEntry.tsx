import { useQueryClient } from '@tanstack/react-query'
import type { CaseDetail, PairDetail } from '@verimend/contract'
import { currentFile } from '@verimend/core/casework'
import { runsOutAtHeight } from '@verimend/core/diagnosis'
import { quantity } from '@verimend/core/quantity'
import { compareWithRecipe } from '@verimend/core/recipe'
import { memo, useMemo, useState } from 'react'
import { InputNumber } from 'antd'
import { keys } from '../api/keys'
import { useUndo } from '../components/useUndo'
import { readingContext } from '../pairs/readingContext'
import { FileDrop } from '../paths/FileDrop'
import { Differences } from '../paths/ReadingView'
import { TakeFromFile } from '../paths/TakeFromFile'
import { jobs } from '../work/jobs'
import { keepFile } from '../workers/keepFile'
import type { Opened } from '../workers/readInWorker'
import { CaseFileEntry, KeepOffer } from './CaseFileEntry'
import { CaseModel } from './CaseModel'
import { Entry } from './Entry'
import { KEPT_UNASKED } from './keptUnasked'
import type { CaseActions } from './useCaseActions'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** How long the part is, where no path file says so: long parts of plastics that shrink lift. */
function LongestSide({
  value,
  closed,
  onSet,
}: {
  value: number | null
  closed: boolean
  onSet: (longest: number | null) => void
}) {
  const [typed, setTyped] = useState(value)
  const keep = () => typed !== value && onSet(typed)
  if (closed && value === null) return null
  return (
    <label className={clsx(ui.row, ui.small)}>
      Longest side of the part
      <InputNumber
        aria-label="Longest side"
        min={1}
        max={2000}
        value={typed}
        onChange={setTyped}
        onBlur={keep}
        onPressEnter={keep}
        disabled={closed}
        suffix="mm"
        style={{ width: 120 }}
      />
    </label>
  )
}

/** The path files of a case: what the machine was told. */
export const ToldEntry = memo(function ToldEntry({
  id,
  partId,
  about,
  longest,
  files,
  marks,
  attempts,
  closed,
  pair,
  actions,
}: Pick<CaseDetail, 'id' | 'partId' | 'about' | 'longest' | 'files' | 'marks' | 'attempts'> & {
  closed: boolean
  pair: PairDetail
  actions: CaseActions
}) {
  const client = useQueryClient()
  const undo = useUndo()
  const [dropped, setDropped] = useState<{ file: File; sha256: string } | null>(null)
  const { file, outdated } = currentFile({ files, attempts })
  const { weightLeft } = pair.filament.filament
  const context = useMemo(() => readingContext(pair), [pair])
  const onRead = ({ name, bytes, sha256, reading, file: whole }: Opened) => {
    actions.addFile({ name, bytes, sha256, reading })
    setDropped(whole && { file: whole, sha256 })
    if (whole && whole.size <= KEPT_UNASKED) keep(whole, sha256)
  }
  /** Keeps the file itself, so that a fix can be written into it; where that fails, it is offered below. */
  const keep = (whole: File, sha256: string) => {
    jobs
      .run(
        { slot: `keep ${sha256}`, kind: 'keeping', name: whole.name, to: `/cases/${id}` },
        (onShare, signal) => keepFile(whole, sha256, onShare, signal),
      )
      .then(onKept, () => undefined)
  }
  const onKept = () => {
    setDropped(null)
    void client.invalidateQueries({ queryKey: keys.cases.one(id) })
  }
  const kept = dropped && files.find((f) => f.sha256 === dropped.sha256)?.kept
  return (
    <Entry kind="told" title="What the machine was told">
      {files.length === 0 && (
        <p className={ui.faint}>
          The G-code file often shows the reason at once. Verimend keeps it with this case, so that a fix can
          be written into it.
        </p>
      )}
      {!file?.reading.build.size && !about && (
        <LongestSide key={String(longest)} value={longest} closed={closed} onSet={actions.setLongest} />
      )}
      <CaseModel kase={{ id, partId, about }} pair={pair} closed={closed} actions={actions} />
      {outdated && (
        <p className={clsx(ui.notice, ui.caution)}>
          The last file was made before the last change. Drop the new one so that the balance knows what is
          really printed.
        </p>
      )}
      {file && weightLeft !== null && file.reading.filament.mass > weightLeft && (
        <p className={clsx(ui.notice, ui.fault)}>
          This print takes {quantity(file.reading.filament.mass, 'g', 0)}; there are{' '}
          {quantity(weightLeft, 'g', 0)} on the roll. It runs out at about{' '}
          {quantity(runsOutAtHeight(file.reading, weightLeft), 'mm', 0)}.
        </p>
      )}
      {file && (
        <Differences
          list={compareWithRecipe(file.reading, pair.version.values)}
          filament={pair.filament.filament}
        />
      )}
      {file && !closed && (
        <TakeFromFile key={pair.current} pair={pair} reading={file.reading} name={file.name} />
      )}
      {[...files].reverse().map((f) => (
        <CaseFileEntry
          key={f.id}
          caseId={id}
          file={f}
          marks={marks}
          closed={closed}
          pair={pair}
          current={f === file}
          onRemove={() =>
            actions.removeFile(f.id, () =>
              undo(`${f.name} is taken out.`, () =>
                actions.addFile({
                  name: f.name,
                  bytes: f.bytes,
                  sha256: f.sha256,
                  reading: f.reading,
                  afterAttempt: f.afterAttempt,
                }),
              ),
            )
          }
        />
      ))}
      {!closed && (
        <FileDrop
          context={context}
          onRead={onRead}
          lasting={{ slot: `case ${id}`, to: `/cases/${id}` }}
          hint="Drop the G-code file that was printed."
        />
      )}
      {dropped && !kept && (
        <KeepOffer file={dropped.file} sha256={dropped.sha256} to={`/cases/${id}`} onKept={onKept} />
      )}
    </Entry>
  )
})

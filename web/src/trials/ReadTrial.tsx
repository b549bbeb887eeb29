import { useQueryClient } from '@tanstack/react-query'
import { Button, Input } from 'antd'
import type { Trial } from '@verimend/contract'
import {
  CRITERIA,
  NO_READING,
  PIECES,
  TOP_GRADE,
  measureFault,
  type Cell,
  type CellReading,
  type CriterionId,
} from '@verimend/core/trials'
import { quantity } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import { useEffect, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { api } from '../api/client'
import { keys } from '../api/keys'
import { KeptForLater } from '../api/outbox'
import { useTrial, useTrialChange } from '../api/queries'
import { Loaded, Problem } from '../components/states'
import { useTyped } from '../components/useTyped'
import { isTyping } from '../frame/keys'
import { CellPhotos } from './CellPhotos'
import { GradeDrawing, hasGradePictures } from './GradeDrawing'
import { PieceDrawing, cellValues } from './PieceDrawing'
import { isRead, progressOf } from './useOutcomes'
import { clsx } from 'clsx'
import { madeOf } from './madeOf'
import ui from '../components/ui.module.css'
import styles from './ReadTrial.module.css'

export default function ReadTrial() {
  const { id = '' } = useParams()
  return <Loaded query={useTrial(id)}>{(t) => <Reader t={t} />}</Loaded>
}

/** What is graded at a cell: the box of walls is measured, the rest of a piece is looked at. */
const criteriaAt = (t: Trial, c: Cell): readonly CriterionId[] =>
  c.measure ? [] : PIECES[t.plan.piece].criteria

/** The printed piece, place by place; every tap is kept at once. */
function Reader({ t }: { t: Trial }) {
  const [search] = useSearchParams()
  const navigate = useNavigate()
  const client = useQueryClient()
  // where it was left, or what was asked for; it stays there until the person goes on
  const [place, setPlace] = useState(
    () => search.get('at') ?? (t.cells.find((c) => !isRead(t, c.id)) ?? t.cells[0]).id,
  )
  const cell = t.cells.find((c) => c.id === place) ?? t.cells[0]
  const index = t.cells.indexOf(cell)
  const reading = t.readings[cell.id] ?? NO_READING
  const save = useTrialChange(t.id, (v: { cell: string; reading: CellReading; was: CellReading | null }) =>
    api.trials.read(t.id, v.cell, v.reading, v.was),
  )
  const put = (change: Partial<CellReading>) => {
    const next = { ...reading, ...change }
    // shown at once; the server's answer then takes its place
    client.setQueryData<Trial>(keys.trials.one(t.id), (old) =>
      old ? { ...old, readings: { ...old.readings, [cell.id]: next } } : old,
    )
    save.mutate(
      { cell: cell.id, reading: next, was: t.readings[cell.id] ?? null },
      {
        onError: (e) => {
          // what waits on this device stays in sight
          if (!(e instanceof KeptForLater)) void client.invalidateQueries({ queryKey: keys.trials.one(t.id) })
        },
      },
    )
  }
  const go = (i: number) => {
    if (i >= t.cells.length) void navigate(`/trials/${t.id}`)
    else if (i >= 0) setPlace(t.cells[i].id)
  }
  const criteria = criteriaAt(t, cell)
  const open = criteria.find((c) => reading.grades[c] === undefined) ?? criteria[0]
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (isTyping(e.target) || e.ctrlKey || e.metaKey || e.altKey) return
      if (e.key === 'ArrowRight') go(index + 1)
      else if (e.key === 'ArrowLeft') go(index - 1)
      else if (open && /^[0-4]$/.test(e.key))
        put({ grades: { ...reading.grades, [open]: Number(e.key) }, skipped: false })
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  })
  const { read, of } = progressOf(t)
  return (
    <div className={styles.reader} data-testid="reader" data-cell={cell.id}>
      <div className={clsx(ui.row, ui.between)}>
        <Link to={`/trials/${t.id}`}>
          {PIECES[t.plan.piece].name}
          {madeOf(t.plan)}, trial {t.number}
        </Link>
        <span className={clsx(ui.faint, ui.figure)}>
          {read} of {of}
        </span>
      </div>
      <progress max={of} value={read} aria-label="Places read" />
      <div className={styles.readhead}>
        <PieceDrawing
          cells={t.cells}
          view={t.view}
          current={cell.id}
          done={(id) => isRead(t, id)}
          onChoose={(id) => setPlace(id)}
        />
        <div>
          <h1>{cell.name}</h1>
          <p className={ui.figure}>{cellValues(cell)}</p>
          {cell.marks > 0 && (
            <p className={clsx(ui.faint, ui.small)}>
              {cell.marks} {cell.marks === 1 ? 'rib or tick' : 'ribs or ticks'}
            </p>
          )}
        </div>
      </div>
      {!!save.error && <Problem error={save.error} again={() => put({})} />}
      {cell.measure && (
        <Measures
          key={cell.id}
          cell={cell}
          values={reading.measures}
          onChange={(measures) => put({ measures, skipped: false })}
        />
      )}
      {criteria.map((c) => (
        <fieldset key={c} className={styles.grades} data-criterion={c}>
          <legend>
            {CRITERIA[c].ask}
            {hasGradePictures(c) && (
              <span className={styles.whence}>The pictures are of simulated prints.</span>
            )}
          </legend>
          <div>
            {Array.from({ length: TOP_GRADE + 1 }, (_, i) => TOP_GRADE - i).map((g) => (
              <label key={g} data-on={reading.grades[c] === g || undefined}>
                <input
                  type="radio"
                  className={ui.visuallyHidden}
                  name={`${cell.id}-${c}`}
                  checked={reading.grades[c] === g}
                  onChange={() => put({ grades: { ...reading.grades, [c]: g }, skipped: false })}
                />
                <GradeDrawing criterion={c} grade={g} />
                <span>{CRITERIA[c].grades[g]}</span>
                <span className={clsx(ui.figure, ui.faint)}>{g}</span>
              </label>
            ))}
          </div>
        </fieldset>
      ))}
      <CellPhotos trial={t.id} cell={cell.id} name={cell.name} />
      <Note key={`note-${cell.id}`} value={reading.note} onSave={(note) => put({ note })} />
      <div className={clsx(ui.row, styles.readactions)}>
        <Button
          onClick={() => put({ unsure: !reading.unsure })}
          aria-pressed={reading.unsure}
          type={reading.unsure ? 'primary' : 'default'}
          ghost={reading.unsure}
        >
          Unsure
        </Button>
        <Button
          onClick={() => {
            put({ ...NO_READING, skipped: true })
            go(index + 1)
          }}
        >
          Skip
        </Button>
        <Button disabled={!isRead(t, cell.id)} onClick={() => put(NO_READING)}>
          Redo
        </Button>
      </div>
      <div className={styles.readnav} data-testid="readnav">
        <Button size="large" disabled={index === 0} onClick={() => go(index - 1)}>
          Back
        </Button>
        <Button size="large" type="primary" onClick={() => go(index + 1)}>
          {index === t.cells.length - 1 ? 'Done' : 'Next'}
        </Button>
      </div>
      <p className={clsx(ui.faint, ui.small, styles.keyhint)}>Keys: 0 to 4 grade, arrows go on and back.</p>
    </div>
  )
}

function Note({ value, onSave }: { value: string; onSave: (note: string) => void }) {
  const [note, setNote, leave] = useTyped(value, onSave)
  return (
    <Input
      aria-label="Comment on this place"
      placeholder="Comment"
      value={note}
      maxLength={400}
      onChange={(e) => setNote(e.target.value)}
      onBlur={leave}
    />
  )
}

/** Measurements with repeats: typed, added one by one, each to be taken out again. */
function Measures({
  cell,
  values,
  onChange,
}: {
  cell: Cell
  values: number[]
  onChange: (v: number[]) => void
}) {
  const [text, setText] = useState('')
  const [fault, setFault] = useState<string | null>(null)
  const unit = cell.measure === 'grams' ? 'g' : 'mm'
  const mean = values.length ? values.reduce((s, v) => s + v, 0) / values.length : null
  const add = () => {
    const v = Number(text.replace(',', '.'))
    const reason = measureFault(cell, v)
    const wrong = text.trim() === '' ? 'Type what you measured.' : reason && say(reason)
    setFault(wrong)
    if (wrong) return
    onChange([...values, v])
    setText('')
  }
  return (
    <fieldset className={styles.measures}>
      <legend>
        {cell.measure === 'grams'
          ? 'Weigh it.'
          : cell.measure === 'wall'
            ? 'Measure the wall with calipers, all four sides, above the first layers.'
            : cell.measure === 'inside'
              ? 'Measure inside.'
              : 'Measure outside.'}{' '}
        {cell.nominal !== undefined && (
          <span className={ui.faint}>Drawn as {quantity(cell.nominal, unit, 2)}.</span>
        )}
      </legend>
      <form
        className={ui.row}
        onSubmit={(e) => {
          e.preventDefault()
          add()
        }}
      >
        <Input
          size="large"
          inputMode="decimal"
          aria-label={`Measured, ${unit}`}
          value={text}
          status={fault ? 'error' : undefined}
          onChange={(e) => setText(e.target.value)}
          suffix={unit}
          style={{ width: 150 }}
        />
        <Button size="large" htmlType="submit">
          Add
        </Button>
      </form>
      {fault && (
        <p className={ui.fault} role="alert">
          {fault}
        </p>
      )}
      {values.length > 0 && (
        <p className={ui.figure}>
          {values.map((v, i) => (
            <button
              key={i}
              type="button"
              className={ui.linkish}
              title="Take it out"
              onClick={() => onChange(values.filter((_, k) => k !== i))}
            >
              {v}
            </button>
          ))}{' '}
          <span className={ui.faint}>mean {quantity(mean!, unit, 3)}</span>
        </p>
      )}
    </fieldset>
  )
}

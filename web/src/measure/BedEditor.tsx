import { Button, Input, InputNumber, Segmented } from 'antd'
import type { Machine } from '@verimend/core/machine'
import {
  readGrid,
  typedNumber,
  type FeltGap,
  type GridFrame,
  type MeasuredOf,
} from '@verimend/core/measurement'
import { say } from '@verimend/core/words'
import { useState } from 'react'
import { FileField, useFileField } from '../components/files'
import { ninePlaces } from './startWith'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

type Bed = MeasuredOf<'bed'>

/** Heights of a bed: pasted from a probe, or gaps felt at nine places. */
export function BedEditor({
  value,
  machine,
  onChange,
}: {
  value: Bed
  machine: Machine
  onChange: (value: Bed) => void
}) {
  const begin = (from: Bed['from']) =>
    onChange(
      from === 'grid'
        ? { kind: 'bed', from, points: [] }
        : {
            kind: 'bed',
            from,
            sheet: 0.1,
            gaps: ninePlaces(machine).map((p) => ({ ...p, feel: null, gap: null })),
          },
    )
  return (
    <div className={ui.stack}>
      <Segmented<Bed['from']>
        aria-label="How the bed is measured"
        value={value.from}
        onChange={begin}
        options={[
          { value: 'grid', label: 'Grid of a probe' },
          { value: 'felt', label: 'Gaps felt by hand' },
        ]}
      />
      {value.from === 'grid' ? (
        <GridField key="grid" value={value} machine={machine} onChange={onChange} />
      ) : (
        <Felt value={value} onChange={onChange} />
      )}
    </div>
  )
}

function GridField({
  value,
  machine,
  onChange,
}: {
  value: Extract<Bed, { from: 'grid' }>
  machine: Machine
  onChange: (value: Bed) => void
}) {
  const { bed } = machine
  const [x0, y0] = bed.shape === 'round' ? [-bed.width / 2, -bed.depth / 2] : [0, 0]
  const [text, setText] = useState('')
  const [margin, setMargin] = useState(10)
  const [firstRow, setFirstRow] = useState<GridFrame['firstRow']>('front')
  const [fault, setFault] = useState<string | null>(null)
  const { input, choose } = useFileField()
  const read = (content: string, m = margin, row = firstRow) => {
    if (!content.trim()) return setFault(null)
    const grid = readGrid(content, {
      fromX: x0 + m,
      toX: x0 + bed.width - m,
      fromY: y0 + m,
      toY: y0 + bed.depth - m,
      firstRow: row,
    })
    if (!grid.ok) return setFault(say(grid.fault))
    setFault(null)
    onChange({ kind: 'bed', from: 'grid', points: grid.points })
  }
  return (
    <>
      <Input.TextArea
        aria-label="The grid as the machine reports it"
        placeholder={'0.12 0.05 −0.03\n0.10 0.02 −0.06\n0.08 0.00 −0.11'}
        rows={6}
        value={text}
        maxLength={400_000}
        className={ui.figure}
        onChange={(e) => {
          setText(e.target.value)
          read(e.target.value)
        }}
      />
      <div className={ui.row}>
        <label className={clsx(ui.row, ui.small)}>
          Places begin
          <InputNumber
            aria-label="Distance of the outer places from the edge"
            min={0}
            max={Math.min(bed.width, bed.depth) / 2 - 5}
            value={margin}
            onChange={(v) => {
              if (v === null) return
              setMargin(v)
              read(text, v)
            }}
            suffix="mm"
            style={{ width: 100 }}
          />
          from the edge
        </label>
        <Segmented<GridFrame['firstRow']>
          aria-label="The first row is"
          value={firstRow}
          onChange={(v) => {
            setFirstRow(v)
            read(text, margin, v)
          }}
          options={[
            { value: 'front', label: 'first row in front' },
            { value: 'back', label: 'first row at the back' },
          ]}
        />
        <Button onClick={choose}>From a file</Button>
        <FileField
          input={input}
          label="Grid file"
          accept=".csv,.txt,.json,text/plain,text/csv"
          onFiles={([file]) =>
            void file
              .slice(0, 400_000)
              .text()
              .then((content) => {
                setText(content)
                read(content)
              })
          }
        />
      </div>
      {fault && (
        <p className={clsx(ui.fault, ui.small)} role="alert">
          {fault}
        </p>
      )}
      {value.points.length > 0 && !fault && (
        <p className={clsx(ui.faint, ui.small)}>{value.points.length} places are read.</p>
      )}
    </>
  )
}

function Felt({
  value,
  onChange,
}: {
  value: Extract<Bed, { from: 'felt' }>
  onChange: (value: Bed) => void
}) {
  const { sheet, gaps } = value
  const set = (i: number, change: Partial<FeltGap>) =>
    onChange({ ...value, gaps: gaps.map((g, k) => (k === i ? { ...g, ...change } : g)) })
  // rows as they lie before the person: the back on top
  const order = gaps.map((g, i) => ({ g, i })).sort((a, b) => b.g.y - a.g.y || a.g.x - b.g.x)
  return (
    <>
      <label className={clsx(ui.row, ui.small)}>
        The sheet is
        <InputNumber
          aria-label="Thickness of the sheet"
          min={0.02}
          max={1}
          step={0.01}
          value={sheet}
          onChange={(v) => v !== null && onChange({ ...value, sheet: v })}
          suffix="mm"
          style={{ width: 110 }}
        />
        thick; paper has 0.1
      </label>
      <p className={clsx(ui.faint, ui.small)}>
        Bed and nozzle hot, nozzle at Z 0. Three places are enough, nine are better. A gap measured with a
        feeler gauge can be typed instead.
      </p>
      <div className={styles.feltgrid} data-testid="felt">
        {order.map(({ g, i }) => (
          <div key={i} className={styles.felt} data-place={`${g.x},${g.y}`}>
            <span className={clsx(ui.faint, ui.small, ui.figure)}>
              {g.x}, {g.y}
            </span>
            <Segmented
              size="small"
              aria-label={`Gap at ${g.x}, ${g.y}`}
              value={g.gap === null ? (g.feel ?? '') : ''}
              onChange={(feel) => set(i, { feel: feel as FeltGap['feel'], gap: null })}
              options={['loose', 'drags', 'tight']}
            />
            <GapField
              value={g.gap}
              onChange={(gap) => set(i, { gap, feel: null })}
              place={`${g.x}, ${g.y}`}
            />
          </div>
        ))}
      </div>
    </>
  )
}

function GapField({
  value,
  place,
  onChange,
}: {
  value: number | null
  place: string
  onChange: (gap: number | null) => void
}) {
  const [text, setText] = useState(value === null ? '' : String(value))
  const typed = text.trim() ? typedNumber(text) : null
  const bad = text.trim() !== '' && (typed === null || typed < -1 || typed > 5)
  return (
    <Input
      size="small"
      aria-label={`Measured gap at ${place}`}
      inputMode="decimal"
      placeholder="or mm"
      value={text}
      status={bad ? 'error' : undefined}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => !bad && typed !== value && onChange(typed)}
      onPressEnter={(e) => e.currentTarget.blur()}
      style={{ width: 72 }}
    />
  )
}

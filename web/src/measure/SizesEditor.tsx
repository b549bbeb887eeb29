import { Button, Checkbox, Input, InputNumber, Select } from 'antd'
import {
  INSTRUMENTS,
  RESOLUTIONS,
  SIZE_KINDS,
  cube,
  doubtOf,
  repeatsDoubt,
  type MeasuredOf,
  type SizeReading,
  type SizesOutcome,
} from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import { Plus, X } from 'lucide-react'
import { useState } from 'react'
import { NextSize } from './NextSize'
import { WantedSizes } from './WantedSizes'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

type Sizes = MeasuredOf<'sizes'>
const AXES: { value: SizeReading['axis']; label: string }[] = [
  { value: 'x', label: 'X' },
  { value: 'y', label: 'Y' },
  { value: 'z', label: 'Z' },
  { value: 'd1', label: 'diagonal 45°' },
  { value: 'd2', label: 'diagonal 135°' },
]
const KINDS = SIZE_KINDS.map((k) => ({ value: k, label: k }))

const WHERE = [
  { value: 'flat above', label: 'above' },
  { value: 'flat base', label: 'at the base' },
  { value: 'round above', label: 'round' },
  { value: 'round base', label: 'round, base' },
]

let made = 0
const fresh = () => ({ id: `own-${Date.now().toString(36)}-${made++}`, name: 'Own size' })
const blank = (nominal: number): SizeReading => ({
  ...fresh(),
  axis: 'x',
  kind: 'outside',
  place: 'above',
  round: false,
  nominal,
  measures: [],
})

/** Sizes of a part: what to measure next, typed one after the other; the list below takes corrections. */
export function SizesEditor({
  value,
  outcome,
  onChange,
}: {
  value: Sizes
  outcome: SizesOutcome | null
  onChange: (value: Sizes) => void
}) {
  const { instrument, readings } = value
  const [side, setSide] = useState(20)
  const put = (list: SizeReading[]) => onChange({ ...value, readings: list })
  const edit = (id: string, change: Partial<SizeReading>) =>
    put(readings.map((r) => (r.id === id ? { ...r, ...change } : r)))
  const [paced, setPaced] = useState(readings.some((r) => r.speed !== undefined))
  const outliers = new Set(outcome?.rows.filter((r) => r.outlier).map((r) => r.id))
  return (
    <div className={ui.stack}>
      <div className={ui.row}>
        <Select
          aria-label="Instrument"
          value={instrument.kind}
          onChange={(kind) => onChange({ ...value, instrument: { kind, resolution: RESOLUTIONS[kind][0] } })}
          options={INSTRUMENTS.map((k) => ({ value: k, label: k }))}
          style={{ width: 130 }}
        />
        <Select
          aria-label="Step of its display"
          value={instrument.resolution}
          onChange={(resolution) => onChange({ ...value, instrument: { ...instrument, resolution } })}
          options={RESOLUTIONS[instrument.kind].map((r) => ({ value: r, label: `${r} mm` }))}
          style={{ width: 120 }}
        />
        {instrument.kind !== 'ruler' && (
          <label className={ui.row}>
            <span className={ui.small}>Closed, it shows</span>
            <InputNumber
              aria-label="What it shows when closed"
              min={-2}
              max={2}
              step={instrument.resolution}
              value={instrument.zero ?? null}
              placeholder="not looked"
              onChange={(zero) => onChange({ ...value, instrument: { ...instrument, zero } })}
              suffix="mm"
              style={{ width: 150 }}
            />
          </label>
        )}
      </div>
      {readings.length === 0 ? (
        <div className={ui.stack}>
          <p className={ui.faint}>A cube is what most people have. Two lengths along each axis tell more.</p>
          <div className={ui.row}>
            <InputNumber
              aria-label="Side of the cube"
              min={2}
              max={500}
              value={side}
              onChange={(v) => v && setSide(v)}
              suffix="mm"
              style={{ width: 120 }}
            />
            <Button type="primary" onClick={() => put(cube(side))}>
              A cube of this side
            </Button>
            <Button onClick={() => put([blank(20)])}>Sizes of my own</Button>
          </div>
        </div>
      ) : (
        <>
          <NextSize key={readings.length} value={value} onChange={onChange} />
          <div className={ui.tablewrap}>
            <table className={ui.plain} data-testid="sizes">
              <thead>
                <tr>
                  <th>Size</th>
                  <th className={ui.num}>Drawn, mm</th>
                  <th>Measured, mm</th>
                  <th className={ui.num}>Off, mm</th>
                  <th>Along</th>
                  <th>Kind</th>
                  <th>Where</th>
                  {paced && <th className={ui.num}>Wall, mm/s</th>}
                  <td />
                </tr>
              </thead>
              <tbody>
                {readings.map((r) => {
                  const mean = r.measures.length
                    ? r.measures.reduce((a, b) => a + b, 0) / r.measures.length
                    : null
                  const doubt = repeatsDoubt(r.measures, instrument)
                  const odd = r.measures.map((m) => doubtOf(r, m, readings)).find(Boolean)
                  return (
                    <tr key={r.id} data-size={r.id}>
                      <td>
                        <Input
                          size="small"
                          aria-label="Name of the size"
                          value={r.name}
                          maxLength={80}
                          onChange={(e) => edit(r.id, { name: e.target.value || ' ' })}
                          style={{ width: 92 }}
                        />
                      </td>
                      <td className={ui.num}>
                        <InputNumber
                          size="small"
                          aria-label="Drawn"
                          min={0.1}
                          max={3000}
                          value={r.nominal}
                          onChange={(v) => v && edit(r.id, { nominal: v })}
                          style={{ width: 66 }}
                        />
                      </td>
                      <td>
                        <div className={ui.row} style={{ gap: 4 }}>
                          {r.measures.map((m, i) => (
                            <button
                              key={i}
                              type="button"
                              className={clsx(ui.linkish, ui.figure)}
                              title="Take it out"
                              aria-label={`Take out ${figure(m, 2)}`}
                              onClick={() => edit(r.id, { measures: r.measures.filter((_, k) => k !== i) })}
                            >
                              {figure(m, 2)}
                            </button>
                          ))}
                          {!r.measures.length && <span className={ui.faint}>not yet</span>}
                        </div>
                        {(doubt ?? odd) && (
                          <p className={clsx(ui.caution, ui.small)}>{say((doubt ?? odd)!)}</p>
                        )}
                        {outliers.has(r.id) && (
                          <p className={clsx(ui.caution, ui.small)}>
                            It stands out of the others: measure it again.
                          </p>
                        )}
                      </td>
                      <td className={clsx(ui.num, ui.figure)}>
                        {mean === null ? '–' : signed(mean - r.nominal)}
                      </td>
                      <td>
                        <Choice
                          label="Along"
                          value={r.axis}
                          options={AXES}
                          width={58}
                          onChange={(axis) => edit(r.id, { axis })}
                        />
                      </td>
                      <td>
                        <Choice
                          label="Kind"
                          value={r.kind}
                          options={KINDS}
                          width={84}
                          onChange={(kind) => edit(r.id, { kind })}
                        />
                      </td>
                      <td>
                        <Choice
                          label="Where"
                          value={`${r.round ? 'round' : 'flat'} ${r.place}`}
                          options={WHERE}
                          width={86}
                          onChange={(v) =>
                            edit(r.id, {
                              round: v.startsWith('round'),
                              place: v.endsWith('base') ? 'base' : 'above',
                            })
                          }
                        />
                      </td>
                      {paced && (
                        <td className={ui.num}>
                          <InputNumber
                            size="small"
                            aria-label="Speed of its walls"
                            min={1}
                            max={2000}
                            value={r.speed ?? null}
                            onChange={(v) => edit(r.id, { speed: v ?? undefined })}
                            style={{ width: 62 }}
                          />
                        </td>
                      )}
                      <td>
                        <Button
                          type="text"
                          size="small"
                          aria-label={`Remove ${r.name}`}
                          icon={<X size={14} aria-hidden="true" />}
                          onClick={() => put(readings.filter((o) => o.id !== r.id))}
                        />
                      </td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          </div>
          <div className={ui.row}>
            <Button
              size="small"
              icon={<Plus size={14} aria-hidden="true" />}
              // like the last, so that five holes are five times a length
              onClick={() => put([...readings, { ...readings.at(-1)!, ...fresh(), measures: [] }])}
            >
              Another size
            </Button>
            <Checkbox
              checked={paced}
              onChange={(e) => {
                setPaced(e.target.checked)
                if (!e.target.checked) put(readings.map(({ speed: _, ...r }) => r))
              }}
            >
              Faces were printed at different speeds
            </Checkbox>
          </div>
          {outcome?.next && (
            <Button
              className={styles.whole}
              onClick={() => {
                const { axis, kind, place, nominal } = outcome.next!
                put([
                  ...readings,
                  {
                    ...blank(nominal),
                    axis,
                    kind,
                    place,
                    name: `${NEXT_NAMES[kind]} ${nominal}`,
                  },
                ])
              }}
            >
              Add what would tell most: {nextText(outcome.next)}
            </Button>
          )}
          <WantedSizes value={value} onChange={onChange} />
        </>
      )}
    </div>
  )
}

const signed = (v: number) => `${v < 0 ? '−' : '+'}${figure(Math.abs(v), 3)}`

const NEXT_NAMES = { inside: 'Inside', outside: 'Length', wall: 'Wall' }
const nextText = ({ nominal, kind, axis }: NonNullable<SizesOutcome['next']>) =>
  kind === 'wall'
    ? `a wall of one line, ${figure(nominal, 2)} mm`
    : `${figure(nominal, 0)} mm ${kind} along ${axis === 'd1' ? 'a diagonal' : axis.toUpperCase()}`

/** A choice in a row of the table. */
function Choice<T extends string>({
  label,
  value,
  options,
  width,
  onChange,
}: {
  label: string
  value: T
  options: { value: T; label: string }[]
  width: number
  onChange: (value: T) => void
}) {
  return (
    <Select<T>
      size="small"
      aria-label={label}
      value={value}
      onChange={onChange}
      options={options}
      popupMatchSelectWidth={false}
      style={{ width }}
    />
  )
}

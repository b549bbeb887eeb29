import { Button, Input, InputNumber, Select } from 'antd'
import {
  INSTRUMENTS,
  RESOLUTIONS,
  cube,
  doubtOf,
  repeatsDoubt,
  typedNumber,
  type MeasuredOf,
  type SizeReading,
  type SizesOutcome,
} from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { say } from '@verimend/core/words'
import { Plus, X } from 'lucide-react'
import { useRef, useState } from 'react'
import { SizeDrawing } from './SizeDrawing'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './measure.module.css'

type Sizes = MeasuredOf<'sizes'>
const AXES = [
  { value: 'x', label: 'X' },
  { value: 'y', label: 'Y' },
  { value: 'z', label: 'Z' },
  { value: 'd1', label: 'diagonal 45°' },
  { value: 'd2', label: 'diagonal 135°' },
]
const KINDS = ['outside', 'inside', 'step', 'depth', 'wall'].map((k) => ({ value: k, label: k }))

const WHERE = [
  { value: 'flat above', label: 'above' },
  { value: 'flat base', label: 'at the base' },
  { value: 'round above', label: 'round' },
  { value: 'round base', label: 'round, base' },
]

let made = 0
const blank = (nominal: number): SizeReading => ({
  id: `own-${Date.now().toString(36)}-${made++}`,
  name: 'Own size',
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
  const { instrument, readings, wanted } = value
  const [side, setSide] = useState(20)
  const put = (list: SizeReading[]) => onChange({ ...value, readings: list })
  const edit = (id: string, change: Partial<SizeReading>) =>
    put(readings.map((r) => (r.id === id ? { ...r, ...change } : r)))
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
          <NextSize key={readings.length} value={value} outcome={outcome} onChange={onChange} />
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
                        <Select
                          size="small"
                          aria-label="Along"
                          value={r.axis}
                          onChange={(axis) => edit(r.id, { axis })}
                          options={AXES as { value: SizeReading['axis']; label: string }[]}
                          popupMatchSelectWidth={false}
                          style={{ width: 58 }}
                        />
                      </td>
                      <td>
                        <Select
                          size="small"
                          aria-label="Kind"
                          value={r.kind}
                          onChange={(kind) => edit(r.id, { kind })}
                          options={KINDS as { value: SizeReading['kind']; label: string }[]}
                          style={{ width: 84 }}
                        />
                      </td>
                      <td>
                        <Select
                          size="small"
                          aria-label="Where"
                          value={`${r.round ? 'round' : 'flat'} ${r.place}`}
                          onChange={(v) =>
                            edit(r.id, {
                              round: v.startsWith('round'),
                              place: v.endsWith('base') ? 'base' : 'above',
                            })
                          }
                          options={WHERE}
                          popupMatchSelectWidth={false}
                          style={{ width: 86 }}
                        />
                      </td>
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
              onClick={() => put([...readings, blank(readings.at(-1)?.nominal ?? 20)])}
            >
              Another size
            </Button>
            {outcome?.next && (
              <Button
                size="small"
                onClick={() => {
                  const { axis, kind, place, nominal } = outcome.next!
                  put([
                    ...readings,
                    {
                      ...blank(nominal),
                      axis,
                      kind,
                      place,
                      name: `${kind === 'inside' ? 'Inside' : 'Length'} ${nominal}`,
                    },
                  ])
                }}
              >
                Add what would tell most: {outcome.next.nominal} mm {outcome.next.kind} along{' '}
                {outcome.next.axis === 'd1' ? 'a diagonal' : outcome.next.axis.toUpperCase()}
              </Button>
            )}
          </div>
          <details>
            <summary className={ui.small}>Sizes of the real part, to be foretold</summary>
            <div className={ui.stack} style={{ gap: 6, marginTop: 8 }}>
              {wanted.map((w, i) => (
                <div key={i} className={ui.row}>
                  <Input
                    size="small"
                    aria-label="What it is"
                    value={w.name}
                    maxLength={80}
                    onChange={(e) =>
                      onChange({
                        ...value,
                        wanted: wanted.map((o, k) => (k === i ? { ...o, name: e.target.value || ' ' } : o)),
                      })
                    }
                    style={{ width: 150 }}
                  />
                  <InputNumber
                    size="small"
                    aria-label="Its drawn size"
                    min={0.1}
                    max={3000}
                    value={w.nominal}
                    onChange={(v) =>
                      v &&
                      onChange({
                        ...value,
                        wanted: wanted.map((o, k) => (k === i ? { ...o, nominal: v } : o)),
                      })
                    }
                    suffix="mm"
                    style={{ width: 110 }}
                  />
                  <Select
                    size="small"
                    aria-label="Outside or inside"
                    value={w.kind}
                    onChange={(kind) =>
                      onChange({ ...value, wanted: wanted.map((o, k) => (k === i ? { ...o, kind } : o)) })
                    }
                    options={[
                      { value: 'outside' as const, label: 'outside' },
                      { value: 'inside' as const, label: 'inside' },
                    ]}
                    style={{ width: 92 }}
                  />
                </div>
              ))}
              <div>
                <Button
                  size="small"
                  disabled={wanted.length >= 20}
                  onClick={() =>
                    onChange({
                      ...value,
                      wanted: [...wanted, { name: 'Seat', nominal: 22, kind: 'inside', axis: 'x' }],
                    })
                  }
                >
                  A size of the part
                </Button>
              </div>
            </div>
          </details>
        </>
      )}
    </div>
  )
}

const signed = (v: number) => `${v < 0 ? '−' : '+'}${figure(Math.abs(v), 3)}`

/** The fast way: says what to measure next; Enter takes it and moves on. What is odd is asked about first. */
function NextSize({
  value,
  onChange,
}: {
  value: Sizes
  outcome: SizesOutcome | null
  onChange: (value: Sizes) => void
}) {
  const { readings } = value
  const [text, setText] = useState('')
  const [doubt, setDoubt] = useState<{ said: string; as: number | null; value: number } | null>(null)
  const [skipped, setSkipped] = useState<string[]>([])
  const field = useRef<HTMLInputElement>(null)
  const least = Math.min(...readings.map((r) => r.measures.length))
  const next =
    readings.find((r) => r.measures.length === least && !skipped.includes(r.id)) ??
    readings.find((r) => r.measures.length === least)!
  const keep = (v: number) => {
    setText('')
    setDoubt(null)
    onChange({
      ...value,
      readings: readings.map((r) =>
        r.id === next.id ? { ...r, measures: [...r.measures, v].slice(0, 20) } : r,
      ),
    })
    field.current?.focus()
  }
  const take = () => {
    const v = typedNumber(text)
    const odd = doubtOf(next, v, readings)
    if (!odd) return keep(v!)
    const as = odd.code === 'maybe-inches' ? Number(odd.values.as) : null
    setDoubt({ said: say(odd), as, value: v ?? NaN })
  }
  return (
    <div className={clsx(styles.nextsize, ui.row)} data-next={next.id}>
      <SizeDrawing reading={next} />
      <div className={ui.stack} style={{ gap: 6 }}>
        <span>
          {next.measures.length ? 'Once more: ' : 'Next: '}
          <strong>{next.name.trim() || 'this size'}</strong>,{' '}
          <span className={ui.figure}>{figure(next.nominal, 2)} mm</span> as drawn
        </span>
        <div className={ui.row}>
          <input
            ref={field}
            className={styles.bigfield}
            aria-label="What it measures"
            inputMode="decimal"
            autoComplete="off"
            value={text}
            onChange={(e) => {
              setText(e.target.value)
              setDoubt(null)
            }}
            onKeyDown={(e) => e.key === 'Enter' && take()}
          />
          <Button type="primary" onClick={take} disabled={!text.trim()}>
            Take it
          </Button>
          <Button type="text" onClick={() => setSkipped([...skipped, next.id])}>
            Skip
          </Button>
        </div>
        {doubt && (
          <div className={clsx(ui.row, ui.caution)} role="alert">
            <span>{doubt.said}</span>
            {doubt.as !== null && (
              <Button size="small" onClick={() => keep(doubt.as!)}>
                Take {figure(doubt.as, 2)} mm
              </Button>
            )}
            {Number.isFinite(doubt.value) && doubt.value > 0 && (
              <Button size="small" onClick={() => keep(doubt.value)}>
                It is {figure(doubt.value, 2)}
              </Button>
            )}
          </div>
        )}
      </div>
    </div>
  )
}

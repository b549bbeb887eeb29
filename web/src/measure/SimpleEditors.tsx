import { InputNumber, Segmented } from 'antd'
import type { Measured, MeasuredKind, MeasuredOf } from '@verimend/core/measurement'
import type { ReactNode } from 'react'
import { NumberList } from './NumberList'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

export type SimpleKind = 'feed' | 'purge' | 'drying' | 'roll' | 'thread' | 'heater'
export const isSimple = (kind: MeasuredKind): kind is SimpleKind =>
  ['feed', 'purge', 'drying', 'roll', 'thread', 'heater'].includes(kind)

function Figure({
  label,
  unit,
  value,
  min = 0,
  max,
  step,
  onChange,
}: {
  label: string
  unit: string
  value: number | null
  min?: number
  max: number
  step?: number
  onChange: (value: number | null) => void
}) {
  return (
    <label className={clsx(ui.row, ui.between)}>
      {label}
      <InputNumber
        aria-label={label}
        min={min}
        max={max}
        step={step}
        value={value}
        decimalSeparator="."
        parser={(text) => Number((text ?? '').replace(',', '.').replace(/[^\d.+-]/g, ''))}
        onChange={(v) => onChange(v)}
        suffix={unit}
        style={{ width: 150 }}
      />
    </label>
  )
}
const Steps = ({ children }: { children: ReactNode }) => (
  <p className={clsx(ui.faint, ui.small)}>{children}</p>
)

/** Feeds, weights, threads and heaters: a few numbers each. */
export function SimpleEditor({
  value,
  onChange,
}: {
  value: MeasuredOf<SimpleKind>
  onChange: (value: Measured) => void
}) {
  switch (value.kind) {
    case 'feed':
      return (
        <div className={ui.stack}>
          <Steps>
            Nozzle hot. Mark the filament 120 mm above the drive, feed slowly, measure what is left up to the
            mark, and type 120 less that.
          </Steps>
          <Figure
            label="Asked for"
            unit="mm"
            min={10}
            max={1000}
            value={value.asked}
            onChange={(v) => v && onChange({ ...value, asked: v })}
          />
          <Figure
            label="Steps of the drive now"
            unit="steps/mm"
            min={1}
            max={100_000}
            value={value.steps}
            onChange={(v) => onChange({ ...value, steps: v })}
          />
          <NumberList
            label="What was fed"
            unit="mm"
            values={value.fed}
            digits={1}
            onChange={(fed) => onChange({ ...value, fed })}
          />
        </div>
      )
    case 'purge':
      return (
        <div className={ui.stack}>
          <Steps>
            Feed a known length slowly into the air, let it cool, weigh it. A scale of 0.01 g is needed.
          </Steps>
          <Figure
            label="Length fed"
            unit="mm"
            min={10}
            max={2000}
            value={value.fed}
            onChange={(v) => v && onChange({ ...value, fed: v })}
          />
          <Figure
            label="Step of the scale"
            unit="g"
            min={0.001}
            max={10}
            value={value.resolution}
            onChange={(v) => v && onChange({ ...value, resolution: v })}
          />
          <NumberList
            label="What it weighs"
            unit="g"
            values={value.grams}
            digits={3}
            onChange={(grams) => onChange({ ...value, grams })}
          />
        </div>
      )
    case 'drying':
      return (
        <div className={ui.stack}>
          <Steps>Weigh the roll with its spool before it goes in and as soon as it comes out.</Steps>
          <Figure
            label="Before"
            unit="g"
            min={1}
            max={20_000}
            value={value.before}
            onChange={(v) => v && onChange({ ...value, before: v })}
          />
          <Figure
            label="After"
            unit="g"
            min={1}
            max={20_000}
            value={value.after}
            onChange={(v) => v && onChange({ ...value, after: v })}
          />
          <Figure
            label="Empty spool, if known"
            unit="g"
            max={5000}
            value={value.spool}
            onChange={(v) => onChange({ ...value, spool: v || null })}
          />
          <Figure
            label="Step of the scale"
            unit="g"
            min={0.001}
            max={10}
            value={value.resolution}
            onChange={(v) => v && onChange({ ...value, resolution: v })}
          />
        </div>
      )
    case 'roll':
      return (
        <div className={ui.stack}>
          <Figure
            label="Roll with its spool"
            unit="g"
            min={1}
            max={20_000}
            value={value.gross}
            onChange={(v) => v && onChange({ ...value, gross: v })}
          />
          <Figure
            label="Empty spool"
            unit="g"
            max={5000}
            value={value.spool}
            onChange={(v) => v !== null && onChange({ ...value, spool: v })}
          />
        </div>
      )
    case 'thread':
      return (
        <div className={ui.stack}>
          <Steps>
            Feed slowly with the nozzle high up, let 10 cm hang and cool, measure it at three places.
          </Steps>
          <Figure
            label="Step of the display"
            unit="mm"
            min={0.001}
            max={1}
            value={value.resolution}
            onChange={(v) => v && onChange({ ...value, resolution: v })}
          />
          <NumberList
            label="Thickness of the thread"
            unit="mm"
            values={value.diameters}
            onChange={(diameters) => onChange({ ...value, diameters })}
          />
        </div>
      )
    case 'heater':
      return (
        <div className={ui.stack}>
          <Segmented<'nozzle' | 'bed'>
            aria-label="Which heater"
            value={value.of}
            onChange={(of) => onChange({ ...value, of })}
            options={[
              { value: 'nozzle', label: 'nozzle' },
              { value: 'bed', label: 'bed' },
            ]}
          />
          <Steps>
            Note the temperature at even times for some minutes, or paste the column the machine reports.
          </Steps>
          <Figure
            label="One every"
            unit="s"
            min={0.05}
            max={600}
            value={value.interval}
            onChange={(v) => v && onChange({ ...value, interval: v })}
          />
          <NumberList
            label="Temperatures"
            unit="°C"
            values={value.temperatures}
            digits={1}
            most={2000}
            onChange={(temperatures) => onChange({ ...value, temperatures })}
          />
        </div>
      )
  }
}

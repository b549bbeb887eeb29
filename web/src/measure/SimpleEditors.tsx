import { InputNumber, Segmented } from 'antd'
import { typedNumber, type Measured, type MeasuredKind, type MeasuredOf } from '@verimend/core/measurement'
import type { ReactNode } from 'react'
import { NumberList } from './NumberList'
import { HeatTrace } from './HeatTrace'
import { PlaceList } from './PlaceList'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const SIMPLE_KINDS = ['feed', 'purge', 'drying', 'roll', 'diameter', 'thread', 'heater'] as const
export type SimpleKind = (typeof SIMPLE_KINDS)[number]
export const isSimple = (kind: MeasuredKind): kind is SimpleKind => SIMPLE_KINDS.some((k) => k === kind)

/** A figure of a measurement. */
interface FigureField {
  key: string
  label: string
  unit: string
  min?: number
  max: number
  /** It may be left empty. */
  open?: boolean
}
const DISPLAY: FigureField = {
  key: 'resolution',
  label: 'Step of the display',
  unit: 'mm',
  min: 0.001,
  max: 1,
}
const SCALE: FigureField = { key: 'resolution', label: 'Step of the scale', unit: 'g', min: 0.001, max: 10 }

/** How each is done, and the figures it is given besides its readings. */
const FORMS: Record<SimpleKind, { steps?: string; figures: FigureField[] }> = {
  feed: {
    steps:
      'Nozzle hot. Mark the filament 120 mm above the drive, feed slowly, measure what is left up to the mark, and type 120 less that.',
    figures: [
      { key: 'asked', label: 'Asked for', unit: 'mm', min: 10, max: 1000 },
      { key: 'steps', label: 'Steps of the drive now', unit: 'steps/mm', min: 1, max: 100_000, open: true },
    ],
  },
  purge: {
    steps: 'Feed a known length slowly into the air, let it cool, weigh it. A scale of 0.01 g is needed.',
    figures: [{ key: 'fed', label: 'Length fed', unit: 'mm', min: 10, max: 2000 }, SCALE],
  },
  drying: {
    steps: 'Weigh the roll with its spool before it goes in and as soon as it comes out.',
    figures: [
      { key: 'before', label: 'Before', unit: 'g', min: 1, max: 20_000 },
      { key: 'after', label: 'After', unit: 'g', min: 1, max: 20_000 },
      { key: 'spool', label: 'Empty spool, if known', unit: 'g', max: 5000, open: true },
      SCALE,
    ],
  },
  roll: {
    figures: [
      { key: 'gross', label: 'Roll with its spool', unit: 'g', min: 1, max: 20_000 },
      { key: 'spool', label: 'Empty spool', unit: 'g', max: 5000 },
    ],
  },
  diameter: {
    steps:
      'Six places, half a metre apart. Turn the caliper a quarter at each and type both, with a slash between.',
    figures: [DISPLAY],
  },
  thread: {
    steps: 'Feed slowly with the nozzle high up, let 10 cm hang and cool, measure it at three places.',
    figures: [DISPLAY],
  },
  heater: {
    steps: 'Note the temperature at even times for some minutes, or paste the column the machine reports.',
    figures: [{ key: 'interval', label: 'One every', unit: 's', min: 0.05, max: 600 }],
  },
}

/** Feeds, weights, diameters, threads and heaters: a few numbers each. */
export function SimpleEditor({
  value,
  onChange,
}: {
  value: MeasuredOf<SimpleKind>
  onChange: (value: Measured) => void
}) {
  const { steps, figures } = FORMS[value.kind]
  const given = value as unknown as Record<string, number | null>
  return (
    <div className={ui.stack}>
      {value.kind === 'heater' && (
        <Segmented<'nozzle' | 'bed'>
          aria-label="Which heater"
          value={value.of}
          onChange={(of) => onChange({ ...value, of })}
          options={[
            { value: 'nozzle', label: 'nozzle' },
            { value: 'bed', label: 'bed' },
          ]}
        />
      )}
      {steps && <p className={clsx(ui.faint, ui.small)}>{steps}</p>}
      {figures.map(({ key, label, unit, min = 0, max, open = false }) => (
        <label key={key} className={clsx(ui.row, ui.between)}>
          {label}
          <InputNumber
            aria-label={label}
            min={min}
            max={max}
            value={given[key]}
            decimalSeparator="."
            parser={(text) => typedNumber(text ?? '') ?? NaN}
            onChange={(v) => (v !== null || open) && onChange({ ...value, [key]: v } as Measured)}
            suffix={unit}
            style={{ width: 150 }}
          />
        </label>
      ))}
      {readingsOf(value, onChange)}
    </div>
  )
}

/** What was read, one after the other. */
function readingsOf(value: MeasuredOf<SimpleKind>, onChange: (value: Measured) => void): ReactNode {
  switch (value.kind) {
    case 'feed':
      return (
        <NumberList
          label="What was fed"
          unit="mm"
          values={value.fed}
          digits={1}
          onChange={(fed) => onChange({ ...value, fed })}
        />
      )
    case 'purge':
      return (
        <NumberList
          label="What it weighs"
          unit="g"
          values={value.grams}
          digits={3}
          onChange={(grams) => onChange({ ...value, grams })}
        />
      )
    case 'diameter':
      return <PlaceList values={value.places} onChange={(places) => onChange({ ...value, places })} />
    case 'thread':
      return (
        <NumberList
          label="Thickness of the thread"
          unit="mm"
          values={value.diameters}
          onChange={(diameters) => onChange({ ...value, diameters })}
        />
      )
    case 'heater':
      return (
        <>
          <NumberList
            label="Temperatures"
            unit="°C"
            values={value.temperatures}
            digits={1}
            most={2000}
            onChange={(temperatures) => onChange({ ...value, temperatures })}
          />
          <HeatTrace values={value.temperatures} interval={value.interval} />
        </>
      )
    case 'drying':
    case 'roll':
      return null
  }
}

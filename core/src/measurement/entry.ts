import type { Reason } from '../quantity/reason'
import type { Instrument } from './instruments'
import { measuredReason } from './reasons'
import type { SizeReading } from './types'

/** How far a printed size may be off before it is asked about, as a share and in mm. Common practice, no source. */
const FAR = { share: 0.06, least: 0.9 }

/** A number as people type it: a comma counts as a point, spaces and a unit are dropped; null when it is none. */
export function typedNumber(text: string): number | null {
  const bare = text
    .trim()
    .replace(/\s*(mm|°c|g|mm\/s)$/i, '')
    .replace(',', '.')
  return /^[+−-]?\d*\.?\d+(e[+-]?\d+)?$/i.test(bare) ? Number(bare.replace('−', '-')) : null
}

/**
 * What is odd about a value that was typed for a size, before it is taken: not a number, inches, another axis's size,
 * digits that went missing.
 * @returns null when nothing is
 */
export function doubtOf(
  reading: Pick<SizeReading, 'nominal' | 'axis' | 'kind' | 'id'>,
  value: number | null,
  others: readonly Pick<SizeReading, 'id' | 'name' | 'nominal' | 'axis' | 'kind'>[] = [],
): Reason | null {
  if (value === null || !Number.isFinite(value)) return measuredReason('no-number')
  if (value <= 0) return measuredReason('below-zero')
  const { nominal } = reading
  const near = (v: number, to: number) => Math.abs(v - to) <= Math.max(FAR.least, FAR.share * to)
  if (near(value, nominal)) return null
  if (near(value * 25.4, nominal) && value < nominal / 4)
    return measuredReason('maybe-inches', { value, as: Number((value * 25.4).toFixed(2)) })
  const other = others.find(
    (o) =>
      o.id !== reading.id && o.kind === reading.kind && o.axis !== reading.axis && near(value, o.nominal),
  )
  if (other) return measuredReason('maybe-swapped', { other: other.name })
  return measuredReason('far-off', { nominal, value })
}

/** Repeats that differ by more than display and hand explain; null when they agree. */
export function repeatsDoubt(measures: readonly number[], { resolution }: Instrument): Reason | null {
  if (measures.length < 2) return null
  const spread = Math.max(...measures) - Math.min(...measures)
  return spread > Math.max(0.15, 4 * resolution)
    ? measuredReason('repeats-apart', { spread: Number(spread.toFixed(3)) })
    : null
}

/** A cube of one side length, to be measured along its three axes. */
export const cube = (side: number): SizeReading[] =>
  (['x', 'y', 'z'] as const).map((axis) => ({
    id: axis,
    name: `Along ${axis.toUpperCase()}`,
    axis,
    kind: 'outside',
    place: 'above',
    round: false,
    nominal: side,
    measures: [],
  }))

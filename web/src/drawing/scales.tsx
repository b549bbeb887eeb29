import { scaleLinear, type ScaleLinear } from 'd3-scale'
import { figure } from '@verimend/core/quantity'
import drawingStyles from './drawing.module.css'

export type Scale = ScaleLinear<number, number>

/** A straight scale from a quantity to a place in a drawing. */
export const linear = (domain: [number, number], range: [number, number]): Scale =>
  scaleLinear().domain(domain).range(range)

/** Decimals that tell neighbouring ticks apart. */
const digitsOf = (ticks: readonly number[]): number =>
  ticks.length < 2 ? 1 : Math.max(0, Math.ceil(-Math.log10(Math.abs(ticks[1] - ticks[0])) - 1e-9))

/** Round values to label a scale at, with their words. */
export function ticksOf(scale: Scale, about: number): { value: number; at: number; text: string }[] {
  const ticks = scale.ticks(about)
  const digits = digitsOf(ticks)
  return ticks.map((value) => ({ value, at: scale(value), text: figure(value, digits) }))
}

/** Ticks of an upright scale, labelled on their left. */
export function UprightTicks({
  scale,
  about = 9,
  x,
  to = x,
}: {
  scale: Scale
  /** How many there should be. */
  about?: number
  /** Where they stand. */
  x: number
  /** How far their lines reach across the drawing. */
  to?: number
}) {
  return ticksOf(scale, about).map((t) => (
    <g key={t.value}>
      <line
        x1={to > x ? x : x - 6}
        x2={to}
        y1={t.at}
        y2={t.at}
        className={to > x ? drawingStyles.gridline : drawingStyles.rule}
      />
      <text x={x - 9} y={t.at + 3.5} textAnchor="end" className={drawingStyles.striptick}>
        {t.text}
      </text>
    </g>
  ))
}

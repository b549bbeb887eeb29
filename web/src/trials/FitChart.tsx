import {
  Chart,
  Filler,
  LineController,
  LineElement,
  LinearScale,
  PointElement,
  ScatterController,
  Tooltip,
  type ChartData,
  type ChartOptions,
} from 'chart.js'
import { figure } from '@verimend/core/quantity'
import { variedOf, type Outcome } from '@verimend/core/trials'
import { SCALE_LABELS, sayAll } from '@verimend/core/words'
import { useMemo } from 'react'
import { Scatter } from 'react-chartjs-2'
import { FIGURES, PALETTES, TEXT } from '../theme/theme'
import { useMode } from '../theme/mode'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './FitChart.module.css'

Chart.register(Filler, LineController, LineElement, LinearScale, PointElement, ScatterController, Tooltip)

/** Readings, the fit through them, the plateau, the interval of the best, and the value in use. */
export function FitChart({
  outcome: o,
  inUse,
  newest,
}: {
  outcome: Outcome
  inUse: number | null
  newest: number
}) {
  const { mode } = useMode()
  const p = PALETTES[mode]
  const axis = o.key ? variedOf(o.key) : { label: '', unit: '' }
  const scale = SCALE_LABELS[o.scale]
  const ys = [...o.points.map((q) => q.y), ...o.curve.map((q) => q.y)]
  const lowest = scale.max > 0 ? 0 : Math.min(0, ...ys) * 1.15
  const highest = scale.max > 0 ? Math.max(scale.max, ...ys) : Math.max(0, ...ys) * 1.15
  const data = useMemo<ChartData<'scatter'>>(() => {
    const line = (
      points: { x: number; y: number }[],
      colour: string,
      width: number,
      dash: number[] = [],
    ) => ({
      data: points,
      showLine: true,
      pointRadius: 0,
      pointHitRadius: 0,
      borderColor: colour,
      borderWidth: width,
      borderDash: dash,
    })
    const upright = (x: number, colour: string, dash: number[]) =>
      line(
        [
          { x, y: lowest },
          { x, y: highest },
        ],
        colour,
        1.5,
        dash,
      )
    const band = (from: number, to: number, colour: string) => ({
      ...line(
        [
          { x: from, y: highest },
          { x: to, y: highest },
        ],
        'transparent',
        0,
      ),
      fill: 'start' as const,
      backgroundColor: colour,
    })
    return {
      datasets: [
        ...(o.plateau ? [band(o.plateau[0], o.plateau[1], `${p.action}22`)] : []),
        ...(o.low !== null && o.high !== null && o.curve.length
          ? [band(Math.min(o.low, o.high), Math.max(o.low, o.high), `${p.info}33`)]
          : []),
        ...(o.curve.length ? [line(o.curve, p.ink, 2)] : []),
        ...(o.best !== null && o.curve.length ? [upright(o.best, p.action, [])] : []),
        ...(inUse !== null ? [upright(inUse, p.caution, [5, 4])] : []),
        {
          data: o.points.filter((q) => q.trial !== newest),
          pointStyle: 'rectRot' as const,
          pointRadius: 4,
          pointBorderColor: p.faint,
          pointBackgroundColor: 'transparent',
        },
        {
          data: o.points.filter((q) => q.trial === newest),
          pointRadius: 5,
          pointBorderColor: p.ink,
          pointBackgroundColor: p.sheet,
          pointBorderWidth: 2,
        },
      ],
    }
  }, [o, p, inUse, newest, lowest, highest])
  const options = useMemo<ChartOptions<'scatter'>>(() => {
    const text = { color: p.faint, font: { family: FIGURES, size: 11 } }
    const xs = [...o.points.map((q) => q.x), ...(inUse === null ? [] : [inUse])]
    const pad = (Math.max(...xs) - Math.min(...xs)) * 0.05 || 1
    return {
      animation: false,
      maintainAspectRatio: false,
      scales: {
        x: {
          min: Math.min(...xs) - pad,
          max: Math.max(...xs) + pad,
          title: {
            display: true,
            text: `${axis.label}${axis.unit ? `, ${axis.unit}` : ''}`,
            color: p.faint,
            font: { family: TEXT, size: 12 },
          },
          ticks: { ...text, includeBounds: false },
          grid: { color: p.rule },
        },
        y: {
          min: lowest,
          max: highest,
          title: {
            display: true,
            text: `${scale.label}${scale.unit ? `, ${scale.unit}` : ''}`,
            color: p.faint,
            font: { family: TEXT, size: 12 },
          },
          ticks: text,
          grid: { color: p.rule },
        },
      },
      plugins: {
        legend: { display: false },
        tooltip: {
          callbacks: {
            label: (c) => `${figure(c.parsed.x ?? 0, 2)} ${axis.unit}: ${figure(c.parsed.y ?? 0, 2)}`,
          },
        },
      },
    }
  }, [o, p, scale, axis.label, axis.unit, inUse, lowest, highest])
  if (!o.points.length) return null
  return (
    <figure className={styles.fitchart} aria-label={`Readings over ${axis.label.toLowerCase()}`}>
      <div>
        <Scatter data={data} options={options} role="img" aria-label={sayAll(o.reasons)} />
      </div>
      <figcaption className={clsx(ui.small, ui.faint)}>
        {o.curve.length > 0 && <span className={styles.key}>fit</span>}
        {o.plateau && <span className={clsx(styles.key, styles.plateau)}>about as good</span>}
        {o.low !== null && o.curve.length > 0 && (
          <span className={clsx(styles.key, styles.interval)}>95 % of the best</span>
        )}
        {inUse !== null && <span className={clsx(styles.key, styles.inuse)}>in use</span>}
        {o.points.some((q) => q.trial !== newest) && (
          <span className={clsx(styles.key, styles.older)}>earlier trials</span>
        )}
      </figcaption>
    </figure>
  )
}

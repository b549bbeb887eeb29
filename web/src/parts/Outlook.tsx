import { Button } from 'antd'
import type { ForecastCause, PartView } from '@verimend/core/casework'
import type { PieceGap } from '@verimend/core/planner'
import { FAMILIES_OF_FAULT, type FaultFamily } from '@verimend/core/knowledge'
import { duration, figure, quantity } from '@verimend/core/quantity'
import { lower, sayAll, suspectName } from '@verimend/core/words'
import { Fragment, useState } from 'react'
import { Link } from 'react-router'
import { percent } from '../components/format'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

const signed = (v: number, digits: number) => {
  const size = figure(Math.abs(v), digits)
  return Number(size) === 0 ? '±0' : `${v < 0 ? '−' : '+'}${size}`
}

interface Row {
  id: string
  label: string
  of: (v: PartView) => string
  /** How much more it is with the change, in words; empty where nothing is to be said. */
  more?: (now: PartView, then: PartView) => string
}

const gapOf = (v: PartView, upright: boolean) => v.pieces.gaps.find((g) => !!g.upright === upright)

const ROWS: Row[] = [
  {
    id: 'time',
    label: 'Time',
    of: (v) => duration(v.reading.seconds),
    more: (a, b) => `${signed((b.reading.seconds - a.reading.seconds) / 60, 1)} min`,
  },
  {
    id: 'grams',
    label: 'Filament',
    of: (v) => quantity(v.reading.filament.mass, 'g', 1),
    more: (a, b) => `${signed(b.reading.filament.mass - a.reading.filament.mass, 1)} g`,
  },
  {
    id: 'contact',
    label: 'On the bed',
    of: (v) => (v.reading.firstLayer ? quantity(v.reading.firstLayer.contact, 'mm²', 0) : '–'),
    more: (a, b) =>
      a.reading.firstLayer && b.reading.firstLayer
        ? `${signed(b.reading.firstLayer.contact - a.reading.firstLayer.contact, 0)} mm²`
        : '',
  },
  {
    id: 'first-width',
    label: 'First-layer lines',
    of: (v) => (v.reading.firstLayer ? `${quantity(v.reading.firstLayer.width, 'mm', 2)} wide` : '–'),
  },
  {
    id: 'hanging',
    label: 'Hangs past 45°',
    of: (v) => quantity(v.judged.hanging45, 'mm²', 0),
    more: (a, b) => `${signed(b.judged.hanging45 - a.judged.hanging45, 0)} mm²`,
  },
  {
    id: 'push',
    label: 'A push tips it at',
    of: (v) => (Number.isFinite(v.judged.push) ? quantity(v.judged.push, 'N', 2) : '–'),
  },
  {
    id: 'stiffness',
    label: 'Stiffness',
    of: (v) => `${figure(100 * v.stiffness.relative, 0)} % of solid`,
    more: (a, b) => `${signed(100 * (b.stiffness.relative - a.stiffness.relative), 0)} points`,
  },
]
const GAP_ROWS: Row[] = [
  { id: 'pieces', label: 'Pieces', of: (v) => figure(v.pieces.count, 0) },
  {
    id: 'gap',
    label: 'Least gap between them',
    of: (v) => {
      const g = gapOf(v, false)
      return g ? `${quantity(g.gap, 'mm', 2)} at ${quantity(g.z, 'mm', 1)}` : 'over 3 mm'
    },
    more: (a, b) => {
      const [p, q] = [gapOf(a, false), gapOf(b, false)]
      return p && q ? `${signed(q.gap - p.gap, 2)} mm` : ''
    },
  },
  {
    id: 'gap-upright',
    label: 'Straight up',
    of: (v) => {
      const g = gapOf(v, true)
      return g ? `${quantity(g.gap, 'mm', 2)} at ${quantity(g.z, 'mm', 1)}` : 'over 3 mm'
    },
    more: (a, b) => {
      const [p, q] = [gapOf(a, true), gapOf(b, true)]
      return p && q ? `${signed(q.gap - p.gap, 2)} mm` : ''
    },
  },
]

const rowsFor = (now: PartView, then: PartView | null): Row[] =>
  now.pieces.count > 1 || (then?.pieces.count ?? 1) > 1 ? [...ROWS, ...GAP_ROWS] : ROWS

/** The figures of a plan as words, one line each. */
export const figureLines = (view: PartView): [label: string, value: string][] =>
  rowsFor(view, null).map((r) => [r.label, r.of(view)])

/** What one plan takes and gives, and beside it the one with a change. */
export function Figures({ now, then }: { now: PartView; then: PartView | null }) {
  const rows = rowsFor(now, then)
  return (
    <div className={styles.figures}>
      <table className={ui.plain} data-testid="figures">
        <thead>
          <tr>
            <th>What</th>
            <th className={ui.num}>As it is</th>
            {then && <th className={ui.num}>With the change</th>}
            {then && <th className={ui.num}>Differs</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const [a, b] = [r.of(now), then && r.of(then)]
            return (
              <tr key={r.id} data-figure={r.id}>
                <td className={ui.faint}>{r.label}</td>
                <td className={clsx(ui.num, ui.figure)}>{a}</td>
                {then && <td className={clsx(ui.num, ui.figure, a !== b && ui.apart)}>{b}</td>}
                {then && (
                  <td className={clsx(ui.num, ui.figure)}>{a === b ? '–' : (r.more?.(now, then) ?? '')}</td>
                )}
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

/** What was wanted and has no room, and whether the roll suffices. */
export function PlanNotes({ view }: { view: PartView }) {
  const { roll, left } = view
  const out = roll.runsOut
  const noRoom = left.filter((l) => l !== 'supports')
  return (
    <>
      {noRoom.length > 0 && (
        <p className={clsx(ui.notice, ui.caution)}>
          The bed has no room for {noRoom.map((l) => l.replace(/-/g, ' ')).join(' and ')}: left out.
        </p>
      )}
      <p className={clsx(ui.faint, ui.small)}>
        Stiffness is for comparing: walls, bottoms and tops count as solid, the infill as the square of its
        share (Gibson and Ashby 1997), a gyroid a little more.
      </p>
      {left.includes('supports') && (
        <p className={clsx(ui.notice, ui.caution)}>
          No supports were laid: nothing hangs past their angle, or they find no way to it.
        </p>
      )}
      {out ? (
        <p className={clsx(ui.notice, ui.fault)} data-testid="roll">
          The roll does not suffice: {quantity(roll.grams, 'g', 0)} are needed,{' '}
          {quantity(roll.onRoll!, 'g', 0)} are left. It runs out in layer {out.layer + 1}, at{' '}
          {quantity(out.z, 'mm', 1)}. Join a second roll in layer {out.joinAt.layer + 1}, at{' '}
          {quantity(out.joinAt.z, 'mm', 1)}: the longest one before, where a stop shows least.{' '}
          <Link to="/handbook/procedures#join-roll">How to join a roll</Link>
        </p>
      ) : (
        <p className={clsx(ui.faint, ui.small)} data-testid="roll">
          {roll.onRoll === null
            ? `${quantity(roll.grams, 'g', 1)} are needed; what is left on the roll was never noted.`
            : `The roll suffices: ${quantity(roll.grams, 'g', 1)} of ${quantity(roll.onRoll, 'g', 0)}.`}
        </p>
      )}
    </>
  )
}

const labelOf = (family: FaultFamily) => FAMILIES_OF_FAULT.find((f) => f.id === family)!.label
/** What speaks most for a cause; nothing where it is as likely as in any print. */
const reasonsFor = ({ weights }: ForecastCause) =>
  weights
    .filter((w) => w.decibans > 0)
    .slice(0, REASONS)
    .map((w) => w.reason)
/** Reasons named for a cause. */
const REASONS = 2
/** Causes named for a family. */
const NAMED = 4

/** How likely each family of faults is before anything is printed, and by what. */
export function Forecast({ now, then }: { now: PartView; then: PartView | null }) {
  const [open, setOpen] = useState<FaultFamily | null>(null)
  const shown = then ?? now
  const before = new Map(now.forecast.map((f) => [f.family, f.chance]))
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="What may go wrong" style={{ gap: 8 }}>
      <h2>What may go wrong</h2>
      <p className={clsx(ui.faint, ui.small)}>
        From the planned paths and this pair, before any sign. For comparing: the figures are as rough as what
        is known of prints in general.
      </p>
      <ul className={ui.plainlist}>
        {shown.forecast.map((f) => {
          const was = before.get(f.family)!
          const moved = then && Math.abs(f.chance - was) >= 0.005
          return (
            <Fragment key={f.family}>
              <li className={styles.family} data-family={f.family}>
                <button
                  type="button"
                  className={ui.linkish}
                  aria-expanded={open === f.family}
                  onClick={() => setOpen(open === f.family ? null : f.family)}
                >
                  {labelOf(f.family)}
                </button>
                <span className={styles.bar} aria-hidden="true">
                  <i style={{ width: `${100 * f.chance}%` }} />
                  {moved && <b style={{ left: `${100 * was}%` }} />}
                </span>
                <span className={clsx(ui.figure, ui.num)} style={{ textAlign: 'right' }}>
                  {moved ? `${percent(was)} → ${percent(f.chance)}` : percent(f.chance)}
                </span>
              </li>
              {open === f.family && (
                <li className={ui.small} style={{ padding: '2px 0 6px' }}>
                  {f.causes.slice(0, NAMED).map((c) => (
                    <div key={c.id} className={clsx(ui.row, ui.between)} style={{ flexWrap: 'nowrap' }}>
                      <span>
                        <Link to={`/handbook/suspects#${c.id}`}>{lower(suspectName(c.id))}</Link>
                        <span className={ui.faint}> {sayAll(reasonsFor(c))}</span>
                      </span>
                      <span className={clsx(ui.figure, ui.faint)}>{percent(c.chance)}</span>
                    </div>
                  ))}
                </li>
              )}
            </Fragment>
          )
        })}
      </ul>
      {then && <p className={clsx(ui.faint, ui.small)}>Bars: with the change. Upright marks: as it is.</p>}
    </section>
  )
}

/** Where pieces come nearest: opens the layer of each. */
export function GapPlaces({
  view,
  onGap,
}: {
  view: PartView
  onGap: (gap: PieceGap, layer: number) => void
}) {
  const { gaps } = view.pieces
  if (!gaps.length) return null
  const layerAt = (z: number) => view.reading.layers.z.findIndex((v) => v >= z - 1e-6)
  return (
    <div className={ui.row} style={{ gap: 6 }}>
      {gaps.slice(0, 4).map((g, i) => (
        <Button key={i} size="small" onClick={() => onGap(g, Math.max(0, layerAt(g.z)))}>
          {g.upright ? 'Straight up' : 'Gap'} of pieces {g.pieces[0] + 1} and {g.pieces[1] + 1}:{' '}
          {quantity(g.gap, 'mm', 2)}
        </Button>
      ))}
    </div>
  )
}

import { Select } from 'antd'
import { figure, quantity, type PathReading } from '@verimend/core'
import { useState } from 'react'

const W = 560
const H = 380
const LEFT = 46

/** Where outlines start, unrolled: the way around the object across, its height upright. */
export function SeamMap({ reading }: { reading: PathReading }) {
  const { seam, objects } = reading
  const [object, setObject] = useState<number>(seam.objects[0]?.object ?? -1)
  const own = seam.objects.find((o) => o.object === object)
  const body = objects[object]
  const top = reading.height || 1
  const z0 = body?.fromZ ?? 0
  const z1 = Math.max(z0 + 1, body?.toZ ?? top)
  const y = (z: number) => 18 + (H - 46) * (1 - (z - z0) / (z1 - z0))
  const x = (a: number) => LEFT + (a / 360) * (W - LEFT - 8)
  const starts = seam.starts.filter((s) => s.object === object)
  const step = [0.5, 1, 2, 5, 10, 20, 50, 100].find((s) => (z1 - z0) / s <= 9) ?? 200
  const ticks = Array.from(
    { length: Math.floor((z1 - z0) / step) + 1 },
    (_, i) => Math.ceil(z0 / step) * step + i * step,
  ).filter((t) => t <= z1)
  if (!seam.count) return <p className="faint">No closed outlines: there is no seam to show.</p>
  return (
    <div className="stack" style={{ gap: 8 }}>
      <div className="row">
        {seam.objects.length > 1 && (
          <Select
            size="small"
            value={object}
            onChange={setObject}
            aria-label="Object"
            options={seam.objects.map((o, i) => ({
              value: o.object,
              label: `object ${i + 1}, ${o.count} starts`,
            }))}
            style={{ width: 190 }}
          />
        )}
        {own && (
          <span>
            {own.together > 0.9 ? 'Stacked' : own.together > 0.5 ? 'Gathered' : 'Scattered'}: togetherness{' '}
            <span className="figure">{figure(own.together, 2)}</span> around{' '}
            <span className="figure">{figure(own.direction, 0)}°</span>
            <span className="faint">
              {' '}
              ({own.p < 0.001 ? 'not by accident' : `by accident in ${figure(own.p * 100, 1)} of 100`})
            </span>
          </span>
        )}
      </div>
      <div className="tablewrap">
        <svg width={W} height={H} role="img" aria-label="Loop starts by angle and height" className="seammap">
          <text x={LEFT - 8} y={12} textAnchor="end" className="stripunit">
            mm
          </text>
          {ticks.map((t) => (
            <g key={t}>
              <line x1={LEFT} x2={W - 8} y1={y(t)} y2={y(t)} className="gridline" />
              <text x={LEFT - 8} y={y(t) + 3.5} textAnchor="end" className="striptick">
                {figure(t, 1)}
              </text>
            </g>
          ))}
          {[
            [0, 'right'],
            [90, 'back'],
            [180, 'left'],
            [270, 'front'],
            [360, 'right'],
          ].map(([a, word]) => (
            <g key={a}>
              <line x1={x(Number(a))} x2={x(Number(a))} y1={18} y2={H - 28} className="gridline" />
              <text
                x={x(Number(a))}
                y={H - 12}
                textAnchor={a === 0 ? 'start' : a === 360 ? 'end' : 'middle'}
                className="striptick"
              >
                {word} {a}°
              </text>
            </g>
          ))}
          {starts.map((s, i) => {
            const z = reading.layers.z[s.layer]
            return s.turn >= 30 ? (
              <path
                key={i}
                d={`M${x(s.angle) - 3} ${y(z) + 2.4}h6l-3 -5z`}
                className={s.hole ? 'seamdot hole' : 'seamdot'}
              />
            ) : (
              <circle
                key={i}
                cx={x(s.angle)}
                cy={y(z)}
                r={2.1}
                className={s.hole ? 'seamdot hole' : 'seamdot'}
              />
            )
          })}
        </svg>
      </div>
      <p className="faint small">
        Dots are starts of outlines, triangles those on an outward corner, hollow ones lie in holes.{' '}
        {seam.stacked !== null &&
          `${figure(seam.stacked * 100, 0)} % of all starts lie within 2 mm of the one below; `}
        {figure(seam.outwardCorner * 100, 0)} % on an outward, {figure(seam.inwardCorner * 100, 0)} % in an
        inward corner. Ends: early stop {quantity(seam.early, 'mm', 2)}, wipe {quantity(seam.wipe, 'mm', 2)}.
        {seam.count > seam.starts.length && ` ${seam.starts.length} of ${seam.count} starts are drawn.`}
      </p>
    </div>
  )
}

/** How often the same filament passes the drive gear backwards. */
export function FeedView({ reading }: { reading: PathReading }) {
  const { ledger, retraction } = reading
  const rows = ledger.byPasses
    .map((mm, passes) => ({ mm, passes }))
    .filter((r, i, all) => r.mm > 0.05 || all.slice(i).some((q) => q.mm > 0.05))
  const most = Math.max(1, ...rows.slice(1).map((r) => r.mm))
  if (retraction.kind === 'none') return <p className="faint">The file never pulls the filament back.</p>
  return (
    <div className="stack" style={{ gap: 8 }}>
      <p>
        {retraction.count} pull-backs
        {retraction.length !== null && (
          <>
            {' '}
            of <span className="figure">{quantity(retraction.length, 'mm', 2)}</span>
          </>
        )}
        {retraction.speed !== null && (
          <>
            {' '}
            at <span className="figure">{quantity(retraction.speed, 'mm/s', 0)}</span>
          </>
        )}
        {!!retraction.zLift && (
          <>
            , with a lift of <span className="figure">{quantity(retraction.zLift, 'mm', 2)}</span>
          </>
        )}
        .
      </p>
      {ledger.worst && (
        <p className={ledger.worst.passes > 10 ? 'caution' : ''}>
          The worst stretch goes back <strong>{ledger.worst.passes} times</strong>:{' '}
          {quantity(ledger.worst.length, 'mm', 1)} of filament, {quantity(ledger.worst.at / 1000, 'm', 2)}{' '}
          into the print, at {quantity(reading.layers.z[ledger.worst.layer] ?? 0, 'mm', 1)}.
        </p>
      )}
      <table className="plain" style={{ width: 'auto' }}>
        <thead>
          <tr>
            <th className="num">Passes back</th>
            <th className="num">Filament, mm</th>
            <th>
              <span className="visually-hidden">Share</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.passes}>
              <td className="num figure">
                {r.passes}
                {r.passes === ledger.byPasses.length - 1 ? ' or more' : ''}
              </td>
              <td className="num figure">{figure(r.mm, 0)}</td>
              <td>
                {r.passes > 0 && (
                  <svg width="220" height="10" aria-hidden="true">
                    <rect
                      width={(r.mm / most) * 220}
                      height="7"
                      y="1.5"
                      className={r.passes > 10 ? 'barover' : 'barunder'}
                    />
                  </svg>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="faint small">
        More than ten passes grind a notch into the filament. Common practice, no source.
      </p>
    </div>
  )
}

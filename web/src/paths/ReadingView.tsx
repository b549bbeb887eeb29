import { bareText, say } from '@verimend/core/words'
import { bytes, duration, figure, quantity } from '@verimend/core/quantity'
import type { Filament } from '@verimend/core/material'
import { settingOf, straysIn, type FileDifference, type Stray } from '@verimend/core/recipe'
import type { PathReading } from '@verimend/core/toolpath'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './ReadingView.module.css'

const some = (v: number | null, unit: string, digits = 1) =>
  v === null ? 'not in the file' : quantity(v, unit, digits)

/** What a path file really tells the machine, in figures. */
export function ReadingFigures({ reading: r }: { reading: PathReading }) {
  const first = r.firstLayer
  const rows: [string, string, string?][] = [
    [
      'Layers',
      `${r.layerCount}, ${some(r.layerHeight, 'mm', 2)} each, ${quantity(r.height, 'mm', 2)} tall${r.spiral ? ', rising continuously' : ''}`,
    ],
    [
      'First layer',
      first ? `${quantity(first.height, 'mm', 2)} high at ${quantity(first.speed, 'mm/s', 0)}` : 'none',
    ],
    [
      'First-layer flow',
      first?.flow != null
        ? `${quantity(first.flow, '%', 0)} of what fills lines ${quantity(first.spacing!, 'mm', 2)} apart`
        : first
          ? `lines of about ${quantity(first.width, 'mm', 2)}; too few side by side for a flow`
          : '–',
    ],
    ['Nozzle', `${some(first?.nozzle ?? null, '°C', 0)} first, ${some(r.rest.nozzle, '°C', 0)} after`],
    ['Bed', `${some(first?.bed ?? null, '°C', 0)} first, ${some(r.rest.bed, '°C', 0)} after`],
    [
      'Fan',
      r.fanFromLayer === null
        ? 'never on'
        : `${quantity(r.rest.fan * 100, '%', 0)} from layer ${r.fanFromLayer}`,
    ],
    ['Outer wall', some(r.rest.outerSpeed, 'mm/s', 0)],
    [
      'Feed',
      `${r.style.relativeFeed ? 'relative' : 'absolute'}${r.style.relativeFeed && r.style.absoluteFeed ? ' and absolute' : ''}${r.style.volumetric ? ', in mm³' : ''}${r.style.inches ? ', inches' : ''}${r.style.arcs ? ', with arcs' : ''}`,
    ],
    [
      'Retraction',
      r.retraction.kind === 'none'
        ? 'none'
        : `${r.retraction.count} times${r.retraction.length === null ? ', length set in the firmware' : ` ${quantity(r.retraction.length, 'mm', 2)}`}${r.retraction.speed ? ` at ${quantity(r.retraction.speed, 'mm/s', 0)}` : ''}`,
    ],
    [
      'Open-air travel',
      r.travel.openCount === 0
        ? 'none of 2 mm or more'
        : r.travel.openUnretracted === 0
          ? `${r.travel.openCount} crossings, each with a pull-back`
          : `${r.travel.openUnretracted} of ${r.travel.openCount} crossings without a pull-back, the longest ${quantity(r.travel.longestUnretracted, 'mm', 0)}`,
    ],
    [
      'Base',
      [
        r.base.skirt && (r.build.skirtLoops ? `skirt of ${r.build.skirtLoops}` : 'skirt'),
        r.base.brim && (r.build.brimLines ? `brim of ${r.build.brimLines} lines` : 'brim'),
        r.base.raftLayers && `raft of ${r.base.raftLayers} layers`,
        r.base.support && 'support',
      ]
        .filter(Boolean)
        .join(', ') || 'nothing around the part',
    ],
    [
      'Part',
      r.build.size
        ? `${figure(r.build.size.x, 1)} × ${figure(r.build.size.y, 1)} × ${quantity(r.build.size.z, 'mm', 1)}, edge to edge of what is laid`
        : '–',
    ],
    [
      'Walls',
      [
        r.build.walls === null
          ? 'cannot be told'
          : `${r.build.walls} ${r.build.walls === 1 ? 'line' : 'lines'}`,
        r.build.wallOrder === null
          ? ''
          : r.build.wallOrder === 'inside-first'
            ? 'inner first'
            : 'outer first',
      ]
        .filter(Boolean)
        .join(', '),
    ],
    [
      'Bottom, top, inside',
      [
        r.build.bottomLayers === null ? '' : `${r.build.bottomLayers} solid layers below`,
        r.build.topLayers === null ? '' : `${r.build.topLayers} above`,
        r.build.sparseDensity === null ? '' : `${quantity(r.build.sparseDensity, '%', 0)} infill`,
      ]
        .filter(Boolean)
        .join(', ') || 'cannot be told',
    ],
    [
      'Layer time',
      r.build.heldLayerTime === null
        ? r.build.slowest === null
          ? 'no layer is slowed'
          : `some layers are slowed, down to ${quantity(r.build.slowest, 'mm/s', 0)}`
        : `quick layers are brought to ${quantity(r.build.heldLayerTime, 's', 1)}`,
    ],
    ['Objects', r.objects.length === 1 ? 'one' : `${r.objects.length}`],
    ['Primed', r.primed ? 'yes, beside the part' : 'nothing primes the nozzle'],
    ['Filament', `${quantity(r.filament.length / 1000, 'm', 2)}, ${quantity(r.filament.mass, 'g', 1)}`],
    ['Time', duration(r.seconds)],
  ]
  return (
    <table className={clsx(ui.plain, styles.reading)}>
      <tbody>
        {rows.map(([k, v]) => (
          <tr key={k}>
            <td className={ui.faint}>{k}</td>
            <td>{v}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Where the file differs from the recipe. */
export function Differences({ list, filament }: { list: FileDifference[]; filament: Filament }) {
  const strays = new Map(straysIn(list, filament).map((s) => [s.key, s]))
  if (!list.length)
    return (
      <p className={clsx(ui.notice, ui.good)}>
        The file carries out the recipe in everything that can be told from its moves.
      </p>
    )
  return (
    <div className={clsx(ui.notice, ui.caution)}>
      <p>The file differs from the recipe here:</p>
      <table className={ui.plain} style={{ width: 'auto' }}>
        <thead>
          <tr>
            <th>Setting</th>
            <th className={ui.num}>Recipe</th>
            <th className={ui.num}>File</th>
            <th>Unit</th>
          </tr>
        </thead>
        <tbody>
          {list.map((d) => {
            const s = settingOf(d.key)
            return (
              <tr key={d.key}>
                <td>
                  {s.label} {strays.has(d.key) && <StrayTag stray={strays.get(d.key)!} />}
                </td>
                <td className={clsx(ui.num, ui.figure)}>{bareText(d.key, d.recipe)}</td>
                <td className={clsx(ui.num, ui.figure, ui.fault)}>{bareText(d.key, d.file)}</td>
                <td className={ui.faint}>{s.kind === 'number' ? s.unit : ''}</td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

/** Says that a value of a file was hardly meant: out of what the roll allows, or left over from another job. */
export function StrayTag({ stray: { outside } }: { stray: Stray }) {
  if (!outside) return <span className={clsx(ui.tag, ui.caution)}>left over?</span>
  const { min, max, of } = outside
  return (
    <span className={clsx(ui.tag, ui.fault)}>
      {of === 'label' ? 'label' : 'plastic'} allows {min > 0 ? `${figure(min, 0)}–` : 'up to '}
      {quantity(max, '°C', 0)}
    </span>
  )
}

/** What the times rest on, and what could not be read. */
export function ReadingNotes({ reading }: { reading: PathReading }) {
  return (
    <details className={ui.faint}>
      <summary>
        {bytes(reading.bytes)}, {figure(reading.lines, 0)} lines, {figure(reading.moves, 0)} moves
        {reading.faultCount ? `, ${reading.faultCount} that could not be read` : ''}
        {reading.unknown.length ? `, ${reading.unknown.length} unknown codes` : ''}
      </summary>
      <ul>
        {reading.assumed.map((reason, i) => (
          <li key={i}>{say(reason)}</li>
        ))}
        {reading.faults.map((f, i) => (
          <li key={i}>
            Line {f.line}: {say(f.reason)}
          </li>
        ))}
        {reading.unknown.length > 0 && (
          <li>Unknown: {reading.unknown.map(([c, n]) => `${c} (${n}×)`).join(', ')}</li>
        )}
      </ul>
    </details>
  )
}

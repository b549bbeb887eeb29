import { CARDS, FAMILIES, SURFACE_NAMES, type FamilyId } from '@verimend/core/material'
import { POLICY_IDS, GROUPS, SETTING_KEYS, policyOf, settingOf, type SettingKey } from '@verimend/core/recipe'
import {
  PROCEDURES,
  SIGN_IDS,
  STRENGTH,
  SUSPECT_IDS,
  checkOrTrial,
  otherWords,
  procedureOf,
  signOf,
  suspectOf,
  type Mend,
  type ProcedureId,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import { quantity } from '@verimend/core/quantity'
import {
  finder,
  procedureFindable,
  settingFindable,
  signFindable,
  suspectFindable,
} from '@verimend/core/words'
import { Fragment, type ReactNode } from 'react'
import { Link } from 'react-router'
import { SignDrawing } from '../drawing/SignDrawing'
import { SignPictures } from '../drawing/SignPictures'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './entries.module.css'

export const CHAPTERS = [
  { value: 'signs', label: 'Signs' },
  { value: 'suspects', label: 'Suspects' },
  { value: 'procedures', label: 'Procedures' },
  { value: 'settings', label: 'Settings' },
  { value: 'materials', label: 'Materials' },
  { value: 'policies', label: 'Disputes' },
] as const
export type Chapter = (typeof CHAPTERS)[number]['value']

export interface Entry {
  id: string
  title: string
  /** What a search looks through besides the title. */
  also?: readonly string[]
  text?: string
  body: () => ReactNode
}

const CHANCE = { S: 'usually', M: 'often', W: 'sometimes' } as const
const lower = (s: string) => s.toLowerCase()

/** A list of linked entries with a comma between and a full stop at the end. */
function Links({
  chapter,
  items,
}: {
  chapter: Chapter
  items: readonly { id: string; name: string; after?: string }[]
}) {
  return items.map((i, n) => (
    <Fragment key={`${i.id}${n}`}>
      <Link to={`/handbook/${chapter}#${i.id}`}>{i.name}</Link>
      {i.after && ` ${i.after}`}
      {n < items.length - 1 ? ', ' : '.'}
    </Fragment>
  ))
}
const signLink = (id: SignId) => ({ id, name: lower(signOf(id).name) })

/** Which suspects bring a sign, the strongest first. */
export function broughtBy(id: SignId): SuspectId[] {
  const strength = (s: SuspectId) => STRENGTH[suspectOf(s).signs[id]!]
  return SUSPECT_IDS.filter((s) => suspectOf(s).signs[id]).sort((a, b) => strength(b) - strength(a))
}

/** Which suspects a setting is moved against, and which way. */
export function mendedBy(key: SettingKey): { suspect: SuspectId; way: string }[] {
  const way = (m: Mend) => (m.kind === 'setting' && m.by ? (m.by > 0 ? 'up' : 'down') : 'set')
  return SUSPECT_IDS.flatMap((suspect) => {
    const mend = suspectOf(suspect).mends.find((m) => m.kind === 'setting' && m.key === key)
    return mend ? [{ suspect, way: way(mend) }] : []
  })
}

/** What the trade calls it besides. */
function AlsoCalled({ words }: { words: readonly string[] | undefined }) {
  return words?.length ? <p className={ui.faint}>Also called: {words.join(', ')}.</p> : null
}

function SignBody({ id }: { id: SignId }) {
  const s = signOf(id)
  return (
    <>
      <div className={ui.row} style={{ alignItems: 'flex-start' }}>
        <SignDrawing sign={id} />
        <div className={clsx(ui.grow, ui.stack)} style={{ gap: 4 }}>
          <p>{s.text}</p>
          <p className={ui.faint}>Look: {s.where}</p>
          <AlsoCalled words={otherWords(id)} />
          {s.unlike && (
            <p className={ui.faint}>
              Easily taken for{' '}
              <Link to={`/handbook/signs#${s.unlike.id}`}>{lower(signOf(s.unlike.id).name)}</Link>:{' '}
              {s.unlike.tell}
            </p>
          )}
          <p>
            Caused by:{' '}
            <Links
              chapter="suspects"
              items={broughtBy(id).map((x) => ({
                id: x,
                name: lower(suspectOf(x).name),
                after: `(${CHANCE[suspectOf(x).signs[id]!]})`,
              }))}
            />
          </p>
        </div>
      </div>
      <SignPictures sign={id} />
    </>
  )
}

/** The sign that tells most of a suspect: the strongest it brings, and of those the one that the fewest others bring. */
export function clearestSign(id: SuspectId): SignId | undefined {
  const { signs } = suspectOf(id)
  const share = (sign: SignId) => {
    const all = broughtBy(sign).reduce((sum, s) => sum + STRENGTH[suspectOf(s).signs[sign]!], 0)
    return STRENGTH[signs[sign]!] * (STRENGTH[signs[sign]!] / all)
  }
  return (Object.keys(signs) as SignId[]).sort((a, b) => share(b) - share(a)).at(0)
}

function SuspectBody({ id }: { id: SuspectId }) {
  const s = suspectOf(id)
  const clearest = clearestSign(id)
  return (
    <div className={ui.row} style={{ alignItems: 'flex-start' }}>
      {clearest && <SignDrawing sign={clearest} />}
      <div className={clsx(ui.grow, ui.stack)} style={{ gap: 4 }}>
        <p>{s.what}</p>
        <AlsoCalled words={otherWords(id)} />
        <p>
          Brings:{' '}
          <Links
            chapter="signs"
            items={(Object.keys(s.signs) as SignId[]).map((x) => ({
              ...signLink(x),
              after: `(${CHANCE[s.signs[x]!]})`,
            }))}
          />
        </p>
        <p>
          To tell: {s.tell}{' '}
          <span className={ui.faint}>
            {s.by.map((b) => `${checkOrTrial(b).name}, ${checkOrTrial(b).minutes} min`).join('; ')}
          </span>
        </p>
        <p>
          Mends:{' '}
          {s.mends.map((m, n) => (
            <Fragment key={n}>
              {m.kind === 'handling' ? (
                <Link to={`/handbook/procedures#${m.procedure}`}>{lower(procedureOf(m.procedure).name)}</Link>
              ) : (
                <>
                  <Link to={`/handbook/settings#${m.key}`}>{lower(settingOf(m.key).label)}</Link>
                  {m.by ? ` by ${m.by > 0 ? '+' : '−'}${Math.abs(m.by)}` : ''}
                </>
              )}
              {n < s.mends.length - 1 ? ', ' : '.'}
            </Fragment>
          ))}
          {s.watch.length > 0 && (
            <>
              {' '}
              Watch for <Links chapter="signs" items={s.watch.map(signLink)} />
            </>
          )}
        </p>
      </div>
    </div>
  )
}

function ProcedureBody({ id }: { id: ProcedureId }) {
  const p = procedureOf(id)
  const against = SUSPECT_IDS.filter((s) =>
    suspectOf(s).mends.some((m) => m.kind === 'handling' && m.procedure === id),
  )
  return (
    <div className={ui.stack} style={{ gap: 4 }}>
      {p.tools.length > 0 && <p className={ui.faint}>You need: {p.tools.join(', ')}.</p>}
      <ol style={{ margin: 0, paddingLeft: 20 }}>
        {p.steps.map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ol>
      {p.cautions.map((x) => (
        <p key={x} className={ui.caution}>
          {x}
        </p>
      ))}
      <p className={ui.faint}>Done when: {p.stop}</p>
      <AlsoCalled words={otherWords(id)} />
      {against.length > 0 && (
        <p>
          Helps against{' '}
          <Links chapter="suspects" items={against.map((s) => ({ id: s, name: lower(suspectOf(s).name) }))} />
        </p>
      )}
    </div>
  )
}

function SettingBody({ id }: { id: SettingKey }) {
  const s = settingOf(id)
  const against = mendedBy(id)
  return (
    <div className={ui.stack} style={{ gap: 4 }}>
      <p>
        <span className={ui.tag}>{GROUPS.find((g) => g.id === s.group)?.label}</span> {s.what}
        {s.up && ` More: ${s.up}.`}
        {s.down && ` Less: ${s.down}.`}{' '}
        {s.kind === 'number' && (
          <span className={clsx(ui.figure, ui.faint)}>
            {s.min}–{s.max} {s.unit}
          </span>
        )}
      </p>
      <AlsoCalled words={s.aka} />
      {against.length > 0 && (
        <p>
          Moved against{' '}
          <Links
            chapter="suspects"
            items={against.map((a) => ({
              id: a.suspect,
              name: lower(suspectOf(a.suspect).name),
              after: `(${a.way})`,
            }))}
          />
        </p>
      )}
    </div>
  )
}

function MaterialBody({ id }: { id: FamilyId }) {
  const c = CARDS[id]
  const q = (v: number, unit: string, digits = 0) => quantity(v, unit, digits)
  const rows: [string, string][] = [
    ['Nozzle', `${c.nozzle.min}–${q(c.nozzle.max, '°C')}, begin with ${q(c.nozzle.start, '°C')}`],
    [
      'Bed',
      `${q(c.bed.first, '°C')}${c.bed.rest === c.bed.first ? '' : `, then ${q(c.bed.rest, '°C')}`}, at most ${q(c.bed.top, '°C')}`,
    ],
    ['Holds on', c.surfaces.map((s) => SURFACE_NAMES[s]).join(', ')],
    [
      'Fan',
      `${q(c.fan.rest, '%')}, ${q(c.fan.overhang, '%')} at overhangs, off for the first ${c.fan.offLayers} ${c.fan.offLayers === 1 ? 'layer' : 'layers'}`,
    ],
    ['Speed', `${q(c.speed.outer, 'mm/s')} outside, ${q(c.speed.inner, 'mm/s')} within`],
    ['Melts', `${q(c.meltRate, 'mm³/s', 1)} through 0.4 mm of brass`],
    [
      'Retraction',
      `${q(c.retraction.direct, 'mm', 1)} direct, ${c.retraction.tube === null ? 'none' : q(c.retraction.tube, 'mm', 1)} through a 400 mm tube`,
    ],
    ['Soft at', `${q(c.softening, '°C')}; shrinks by ${q(c.shrink, '%', 1)}; ${q(c.density, 'g/cm³', 2)}`],
    [
      'Drying',
      `${q(c.drying.temperature, '°C')} for ${q(c.drying.hours, 'h')}${c.drying.hygroscopic ? `; bears ${c.drying.openDays} ${c.drying.openDays === 1 ? 'day' : 'days'} in the open` : '; takes up little water'}`,
    ],
  ]
  return (
    <>
      <table className={clsx(ui.plain, styles.cardtable)}>
        <tbody>
          {rows.map(([name, text]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{text}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={ui.small}>
        {[
          c.wantsEnclosure && 'Wants warm, still air around it.',
          c.fumes && 'Its fumes want a filter.',
          c.flexible && 'Soft enough to fold in a drive.',
        ]
          .filter(Boolean)
          .join(' ')}
      </p>
    </>
  )
}

function PolicyBody({ id }: { id: (typeof POLICY_IDS)[number] }) {
  const d = policyOf(id)
  return (
    <div className={ui.stack} style={{ gap: 4 }}>
      <p>
        One side: {d.sides[0]}. The other: {d.sides[1]}.
      </p>
      <p>What decides: {d.decides}</p>
      <p className={ui.faint}>
        Settles it: {lower(checkOrTrial(d.by).name)}, {checkOrTrial(d.by).minutes} min. Bears on{' '}
        <Links
          chapter="settings"
          items={d.settings.map((k) => ({ id: k, name: lower(settingOf(k).label) }))}
        />
      </p>
    </div>
  )
}

/** The entries of a chapter. */
export function entriesOf(chapter: Chapter): Entry[] {
  switch (chapter) {
    case 'signs':
      return SIGN_IDS.map((id) => ({
        id,
        ...signFindable(id),
        body: () => <SignBody id={id} />,
      }))
    case 'suspects':
      return SUSPECT_IDS.map((id) => ({
        id,
        ...suspectFindable(id),
        body: () => <SuspectBody id={id} />,
      }))
    case 'procedures':
      return (Object.keys(PROCEDURES) as ProcedureId[]).map((id) => ({
        id,
        ...procedureFindable(id),
        body: () => <ProcedureBody id={id} />,
      }))
    case 'settings':
      return SETTING_KEYS.map((id) => ({
        id,
        ...settingFindable(id),
        body: () => <SettingBody id={id} />,
      }))
    case 'materials':
      return FAMILIES.map((id) => ({
        id,
        title: CARDS[id].name,
        text: id,
        body: () => <MaterialBody id={id} />,
      }))
    case 'policies':
      return POLICY_IDS.map((id) => ({
        id,
        title: policyOf(id).question,
        text: `${policyOf(id).sides.join(' ')} ${policyOf(id).decides}`,
        body: () => <PolicyBody id={id} />,
      }))
  }
}

const finders = new Map<Chapter, (wanted: string) => Entry[]>()

/** Entries of a chapter that are meant by some words, best first; all of them without words. */
export function search(chapter: Chapter, text: string): Entry[] {
  const entries = entriesOf(chapter)
  if (!text.trim()) return entries
  if (!finders.has(chapter)) finders.set(chapter, finder(entries))
  return finders.get(chapter)!(text)
}

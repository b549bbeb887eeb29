import { Input, Segmented } from 'antd'
import {
  CARDS,
  DISPUTE_IDS,
  FAMILIES,
  GROUPS,
  PROCEDURES,
  SETTING_KEYS,
  SIGN_IDS,
  SUSPECT_IDS,
  STRENGTH,
  checkOrTrial,
  disputeOf,
  procedureOf,
  settingOf,
  signOf,
  sourceOf,
  suspectOf,
  type ProcedureId,
  type SignId,
} from '@verimend/core'
import { useEffect, useState, type ReactNode } from 'react'
import { useLocation, useNavigate, useParams } from 'react-router'
import { SignDrawing } from '../drawings/SignDrawing'
import { Empty } from '../parts/Problem'

const CHAPTERS = [
  { value: 'signs', label: 'Signs' },
  { value: 'suspects', label: 'Suspects' },
  { value: 'procedures', label: 'Procedures' },
  { value: 'settings', label: 'Settings' },
  { value: 'materials', label: 'Materials' },
  { value: 'disputes', label: 'Disputes' },
] as const
type Chapter = (typeof CHAPTERS)[number]['value']

interface Item {
  id: string
  title: string
  text: string
  body: ReactNode
}
const CHANCE = { S: 'usually', M: 'often', W: 'sometimes' } as const

function itemsOf(chapter: Chapter): Item[] {
  switch (chapter) {
    case 'signs':
      return SIGN_IDS.map((id) => {
        const s = signOf(id)
        const by = SUSPECT_IDS.filter((x) => suspectOf(x).signs[id]).sort(
          (a, b) => STRENGTH[suspectOf(b).signs[id]!] - STRENGTH[suspectOf(a).signs[id]!],
        )
        return {
          id,
          title: s.name,
          text: s.text,
          body: (
            <div className="row" style={{ alignItems: 'flex-start' }}>
              <SignDrawing sign={id} />
              <div className="grow stack" style={{ gap: 4 }}>
                <p>{s.text}</p>
                <p className="faint">Look: {s.where}</p>
                {s.unlike && (
                  <p className="faint">
                    Easily taken for {signOf(s.unlike.id).name.toLowerCase()}: {s.unlike.tell}
                  </p>
                )}
                <p>
                  Caused by:{' '}
                  {by
                    .map((x) => `${suspectOf(x).name.toLowerCase()} (${CHANCE[suspectOf(x).signs[id]!]})`)
                    .join(', ')}
                  .
                </p>
              </div>
            </div>
          ),
        }
      })
    case 'suspects':
      return SUSPECT_IDS.map((id) => {
        const s = suspectOf(id)
        return {
          id,
          title: s.name,
          text: s.what,
          body: (
            <div className="stack" style={{ gap: 4 }}>
              <p>{s.what}</p>
              <p>
                Brings:{' '}
                {(Object.keys(s.signs) as SignId[])
                  .map((x) => `${signOf(x).name.toLowerCase()} (${CHANCE[s.signs[x]!]})`)
                  .join(', ')}
                .
              </p>
              <p>
                To tell: {s.tell}{' '}
                <span className="faint">{s.by.map((b) => checkOrTrial(b).name).join(', ')}</span>
              </p>
              <p>
                Mends:{' '}
                {s.mends
                  .map((m) =>
                    m.kind === 'handling'
                      ? procedureOf(m.procedure).name
                      : `${settingOf(m.key).label}${m.by ? ` by ${m.by > 0 ? '+' : '−'}${Math.abs(m.by)}` : ''}`,
                  )
                  .join(', ')}
                .
                {s.watch.length > 0 &&
                  ` Watch for ${s.watch.map((w) => signOf(w).name.toLowerCase()).join(', ')}.`}
              </p>
            </div>
          ),
        }
      })
    case 'procedures':
      return (Object.keys(PROCEDURES) as ProcedureId[]).map((id) => {
        const p = procedureOf(id)
        return {
          id,
          title: p.name,
          text: p.steps.join(' '),
          body: (
            <div className="stack" style={{ gap: 4 }}>
              {p.tools.length > 0 && <p className="faint">You need: {p.tools.join(', ')}.</p>}
              <ol style={{ margin: 0, paddingLeft: 20 }}>
                {p.steps.map((x) => (
                  <li key={x}>{x}</li>
                ))}
              </ol>
              {p.cautions.map((x) => (
                <p key={x} className="caution">
                  {x}
                </p>
              ))}
              <p className="faint">Done when: {p.stop}</p>
            </div>
          ),
        }
      })
    case 'settings':
      return SETTING_KEYS.map((id) => {
        const s = settingOf(id)
        return {
          id,
          title: s.label,
          text: s.what,
          body: (
            <p>
              <span className="tag">{GROUPS.find((g) => g.id === s.group)?.label}</span> {s.what}
              {s.up && ` More: ${s.up}.`}
              {s.down && ` Less: ${s.down}.`}{' '}
              {s.kind === 'number' && (
                <span className="figure faint">
                  {s.min}–{s.max} {s.unit}
                </span>
              )}
            </p>
          ),
        }
      })
    case 'disputes':
      return DISPUTE_IDS.map((id) => {
        const d = disputeOf(id)
        return {
          id,
          title: d.question,
          text: `${d.sides.join(' ')} ${d.decides}`,
          body: (
            <div className="stack" style={{ gap: 4 }}>
              <p>
                One side: {d.sides[0]}. The other: {d.sides[1]}.
              </p>
              <p>What decides: {d.decides}</p>
              <p className="faint">
                Settles it: {checkOrTrial(d.by).name.toLowerCase()}, {checkOrTrial(d.by).minutes} min. Bears
                on {d.settings.map((k) => settingOf(k).label.toLowerCase()).join(', ')}.
              </p>
            </div>
          ),
        }
      })
    case 'materials':
      return FAMILIES.map((id) => {
        const c = CARDS[id]
        return {
          id,
          title: c.name,
          text: id,
          body: (
            <p className="figure" style={{ whiteSpace: 'normal' }}>
              nozzle {c.nozzle.min}–{c.nozzle.max} °C, start {c.nozzle.start} · bed {c.bed.first}/{c.bed.rest}{' '}
              °C · fan {c.fan.rest} % · {c.speed.outer}/{c.speed.inner} mm/s · melts {c.meltRate} mm³/s ·{' '}
              {c.density} g/cm³ · soft at {c.softening} °C · shrinks {c.shrink} % · dry {c.drying.temperature}{' '}
              °C × {c.drying.hours} h
            </p>
          ),
        }
      })
  }
}

/** Where an entry comes from. */
function Whence({ chapter, id }: { chapter: Chapter; id: string }) {
  const { tag, words } = sourceOf(chapter, id)
  return (
    <p className="faint small" style={{ marginTop: 6 }}>
      <span className={tag === 'published' ? 'tag good' : tag === 'from memory' ? 'tag caution' : 'tag'}>
        {tag}
      </span>{' '}
      {words}
    </p>
  )
}

/** Signs, suspects, procedures, settings, materials and what practice disagrees on, searchable. */
export default function Handbook() {
  const { chapter: raw } = useParams()
  const chapter: Chapter = CHAPTERS.some((c) => c.value === raw) ? (raw as Chapter) : 'signs'
  const navigate = useNavigate()
  const { hash } = useLocation()
  const [text, setText] = useState('')
  const target = hash.slice(1)
  useEffect(() => {
    if (target) document.getElementById(target)?.scrollIntoView({ block: 'center' })
  }, [target, chapter])
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const items = itemsOf(chapter).filter((i) =>
    words.every((w) => `${i.title} ${i.text}`.toLowerCase().includes(w)),
  )
  return (
    <>
      <div className="pagehead">
        <h1>Handbook</h1>
        <span className="grow" />
        <div className="tablewrap">
          <Segmented
            value={chapter}
            onChange={(v) => void navigate(`/handbook/${v}`)}
            options={[...CHAPTERS]}
          />
        </div>
        <Input
          allowClear
          placeholder="Find"
          aria-label="Find in the handbook"
          value={text}
          onChange={(e) => setText(e.target.value)}
          style={{ width: 200 }}
        />
      </div>
      {items.length === 0 && <Empty>Nothing of that name in this chapter.</Empty>}
      <div className="stack">
        {items.map((i) => (
          <section key={i.id} id={i.id} className={i.id === target ? 'sheet aimed' : 'sheet'}>
            <h2>{i.title}</h2>
            {i.body}
            <Whence chapter={chapter} id={i.id} />
          </section>
        ))}
      </div>
    </>
  )
}

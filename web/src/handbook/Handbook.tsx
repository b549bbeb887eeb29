import { Input, Segmented } from 'antd'
import { clsx } from 'clsx'
import { sourceOf } from '@verimend/core/knowledge'
import { useEffect, useState } from 'react'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import { Empty } from '../components/states'
import { CHAPTERS, entriesOf, search, type Chapter } from './entries'
import ui from '../components/ui.module.css'
import styles from './Handbook.module.css'

/** Chapters by names they once had in addresses. */
const EARLIER: Partial<Record<string, Chapter>> = { disputes: 'policies' }

/** Where an entry comes from. */
function Whence({ chapter, id }: { chapter: Chapter; id: string }) {
  const { tag, words } = sourceOf(chapter, id)
  return (
    <p className={clsx(ui.faint, ui.small)} style={{ marginTop: 6 }}>
      <span
        className={
          tag === 'published'
            ? clsx(ui.tag, ui.good)
            : tag === 'from memory'
              ? clsx(ui.tag, ui.caution)
              : ui.tag
        }
      >
        {tag}
      </span>{' '}
      {words}
    </p>
  )
}

/** Signs, suspects, procedures, settings, materials and what practice disagrees on, searchable. */
export default function Handbook() {
  const { chapter: raw } = useParams()
  const chapter = CHAPTERS.find((c) => c.value === (EARLIER[raw ?? ''] ?? raw))?.value ?? 'signs'
  const navigate = useNavigate()
  const { hash } = useLocation()
  const [text, setText] = useState('')
  const target = hash.slice(1)
  // a link leads to an entry even while a search is on
  const shown = search(chapter, text)
  const items = !target || shown.some((e) => e.id === target) ? shown : entriesOf(chapter)
  useEffect(() => {
    if (target) document.getElementById(target)?.scrollIntoView({ block: 'center' })
  }, [target, chapter])
  const elsewhere = text.trim()
    ? CHAPTERS.filter((c) => c.value !== chapter)
        .map((c) => ({ ...c, count: search(c.value, text).length }))
        .filter((c) => c.count > 0)
    : []
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Handbook</h1>
        <span className={ui.grow} />
        <div className={styles.chapters}>
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
          onChange={(e) => {
            setText(e.target.value)
            if (target) void navigate(`/handbook/${chapter}`, { replace: true })
          }}
          style={{ width: 200 }}
        />
      </div>
      {elsewhere.length > 0 && (
        <p className={ui.faint} role="status" style={{ margin: '0 0 12px' }}>
          In other chapters:{' '}
          {elsewhere.map((c, i) => (
            <span key={c.value}>
              {i > 0 && ', '}
              <Link to={`/handbook/${c.value}`}>
                {c.count} in {c.label.toLowerCase()}
              </Link>
            </span>
          ))}
          .
        </p>
      )}
      {items.length === 0 && <Empty>Nothing of that name in this chapter.</Empty>}
      <div className={chapter === 'materials' ? styles.cardsheets : ui.stack}>
        {items.map((i) => (
          <section
            key={i.id}
            id={i.id}
            className={clsx(ui.sheet, i.id === target && styles.aimed)}
            data-aimed={i.id === target}
          >
            <h2>{i.title}</h2>
            {i.body()}
            <Whence chapter={chapter} id={i.id} />
          </section>
        ))}
      </div>
    </>
  )
}

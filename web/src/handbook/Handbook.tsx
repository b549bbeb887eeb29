import { Input, Segmented } from 'antd'
import { sourceOf } from '@verimend/core'
import { useEffect, useMemo, useState } from 'react'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import { Empty } from '../parts/Problem'
import { CHAPTERS, entriesOf, search, type Chapter } from './entries'

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
  // a link leads to an entry even while a search is on
  const shown = search(entriesOf(chapter), text)
  const items = !target || shown.some((e) => e.id === target) ? shown : entriesOf(chapter)
  useEffect(() => {
    if (target) document.getElementById(target)?.scrollIntoView({ block: 'center' })
  }, [target, chapter])
  const elsewhere = useMemo(
    () =>
      text.trim()
        ? CHAPTERS.filter((c) => c.value !== chapter)
            .map((c) => ({ ...c, count: search(entriesOf(c.value), text).length }))
            .filter((c) => c.count > 0)
        : [],
    [text, chapter],
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
          onChange={(e) => {
            setText(e.target.value)
            if (target) void navigate(`/handbook/${chapter}`, { replace: true })
          }}
          style={{ width: 200 }}
        />
      </div>
      {elsewhere.length > 0 && (
        <p className="faint" role="status" style={{ margin: '0 0 12px' }}>
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
      <div className={chapter === 'materials' ? 'cardsheets' : 'stack'}>
        {items.map((i) => (
          <section key={i.id} id={i.id} className={i.id === target ? 'sheet aimed' : 'sheet'}>
            <h2>{i.title}</h2>
            {i.body()}
            <Whence chapter={chapter} id={i.id} />
          </section>
        ))}
      </div>
    </>
  )
}

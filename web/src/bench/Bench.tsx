import { Button } from 'antd'
import { signOf } from '@verimend/core'
import { Link, useNavigate } from 'react-router'
import { useCases } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import { SignDrawing } from '../drawings/SignDrawing'
import { ago } from '../parts/format'
import { Empty, Loaded } from '../parts/Problem'
import { useCurrentPair } from '../pairs/PairContext'
import { Swatch } from '../pairs/PairName'
import { Readiness } from './Readiness'

/** What lies on the bench: open cases with what comes next, and the pairs. */
export default function Bench() {
  const cases = useCases()
  const pairOf = usePairOf()
  const navigate = useNavigate()
  const { pairId, choose } = useCurrentPair()
  const pairText = (id: string) => {
    const known = pairOf(id)
    return known ? (
      <>
        <Swatch colour={known.filament.colour} /> {known.filament.name} on {known.machine.name}
      </>
    ) : null
  }
  return (
    <>
      <div className="pagehead">
        <h1>Bench</h1>
        <span className="grow" />
        <Button type="primary" onClick={() => void navigate('/cases/new')}>
          New case
        </Button>
      </div>
      <Loaded query={cases}>
        {(list) => {
          const open = list.filter((c) => c.status === 'open')
          return (
            <section className="stack" aria-label="Open cases">
              {open.length === 0 ? (
                <Empty action={<Button onClick={() => void navigate('/cases/new')}>Begin a case</Button>}>
                  Nothing is open. When a print comes out wrong, begin a case: mark what you see, and Verimend
                  says what to change first.
                </Empty>
              ) : (
                <div className="benchgrid">
                  {open.map((c) => (
                    <Link key={c.id} to={`/cases/${c.id}`} className="sheet benchcase">
                      <span className="row between">
                        <strong className="wrap">{c.part}</strong>
                        <span className={c.awaiting ? 'tag caution' : 'tag info'}>
                          {c.awaiting
                            ? 'look again'
                            : c.seen.length
                              ? 'change one thing'
                              : c.attempts
                                ? 'close it'
                                : 'mark what you see'}
                        </span>
                      </span>
                      <span className="faint">{pairText(c.pairId)}</span>
                      <span className="row" style={{ gap: 6 }}>
                        {c.seen.slice(0, 3).map((s) => (
                          <SignDrawing key={s} sign={s} width={64} />
                        ))}
                        <span className="faint small">
                          {c.seen.map((s) => signOf(s).name.toLowerCase()).join(', ')}
                        </span>
                      </span>
                      <span className="faint small">
                        {c.attempts} {c.attempts === 1 ? 'attempt' : 'attempts'}, {ago(c.updatedAt)}
                      </span>
                    </Link>
                  ))}
                </div>
              )}
            </section>
          )
        }}
      </Loaded>
      <h2 style={{ margin: '24px 0 10px' }}>Readiness of the pairs</h2>
      <Readiness pairId={pairId} choose={choose} />
    </>
  )
}

import { Button } from 'antd'
import { signOf } from '@verimend/core/knowledge'
import { Link, useNavigate } from 'react-router'
import { ON_BENCH } from '../api/ahead'
import { useCases, usePairs } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import { SignDrawing } from '../drawing/SignDrawing'
import { ago } from '../components/format'
import { later } from '../components/later'
import { Empty, Loaded } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { Swatch } from '../pairs/PairName'
import { Readiness } from './Readiness'
import { RoomLeft } from './RoomLeft'
import { clsx } from 'clsx'
import { Boundary } from '../components/Boundary'
import ui from '../components/ui.module.css'
import styles from './Bench.module.css'

const FirstSteps = later(() => import('./FirstSteps'), {
  what: 'The first steps',
})

/** What lies on the bench: open cases with what comes next, and the pairs. */
export default function Bench() {
  const cases = useCases(ON_BENCH)
  const pairs = usePairs()
  const everyCase = useCases({ limit: 1 }, cases.data?.total === 0)
  const pairOf = usePairOf()
  const navigate = useNavigate()
  /** Nothing was begun yet: the way to the first case stands in place of the rest. */
  const isNew = pairs.data?.length === 0 || everyCase.data?.total === 0
  const begun = !!pairs.data?.length
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
      <div className={ui.pagehead}>
        <h1>Bench</h1>
        <span className={ui.grow} />
        <Button type="primary" onClick={() => void navigate('/cases/new')}>
          New case
        </Button>
      </div>
      <Boundary what="Word of the room that is left">
        <RoomLeft />
      </Boundary>
      {isNew && <FirstSteps />}
      <Loaded query={cases}>
        {({ cases: open, total }) => {
          if (isNew) return null
          return (
            <section className={ui.stack} aria-label="Open cases">
              {open.length === 0 ? (
                <Empty action={<Button onClick={() => void navigate('/cases/new')}>Begin a case</Button>}>
                  Nothing is open. When a print comes out wrong, begin a case: mark what you see, and Verimend
                  says what to change first.
                </Empty>
              ) : (
                <div className={styles.benchgrid}>
                  {open.map((c) => (
                    <Link key={c.id} to={`/cases/${c.id}`} className={clsx(ui.sheet, styles.benchcase)}>
                      <span className={clsx(ui.row, ui.between)}>
                        <strong className={ui.wrap}>{c.part}</strong>
                        <span className={c.awaiting ? clsx(ui.tag, ui.caution) : clsx(ui.tag, ui.info)}>
                          {c.awaiting
                            ? 'look again'
                            : c.seen.length
                              ? 'change one thing'
                              : c.attempts
                                ? 'close it'
                                : 'mark what you see'}
                        </span>
                      </span>
                      <span className={ui.faint}>{pairText(c.pairId)}</span>
                      <span className={ui.row} style={{ gap: 6 }}>
                        {c.seen.slice(0, 3).map((s) => (
                          <SignDrawing key={s} sign={s} width={64} />
                        ))}
                        <span className={clsx(ui.faint, ui.small)}>
                          {c.seen.map((s) => signOf(s).name.toLowerCase()).join(', ')}
                        </span>
                      </span>
                      <span className={clsx(ui.faint, ui.small)}>
                        {c.attempts} {c.attempts === 1 ? 'attempt' : 'attempts'}, {ago(c.updatedAt)}
                      </span>
                    </Link>
                  ))}
                </div>
              )}
              {total > open.length && <Link to="/cases?show=open">All {total} open cases</Link>}
            </section>
          )
        }}
      </Loaded>
      {!begun ? null : (
        <>
          <h2 style={{ margin: '24px 0 10px' }}>Readiness of the pairs</h2>
          <Boundary what="The readiness">
            <Readiness pairId={pairId} choose={choose} />
          </Boundary>
        </>
      )}
    </>
  )
}

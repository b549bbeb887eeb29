import { Button } from 'antd'
import { signOf } from '@verimend/core/knowledge'
import { lazy, Suspense } from 'react'
import { Link, useNavigate } from 'react-router'
import { useCases, useMachines } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import { SignDrawing } from '../drawing/SignDrawing'
import { ago } from '../components/format'
import { Empty, Loaded } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { Swatch } from '../pairs/PairName'
import { Readiness } from './Readiness'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Bench.module.css'

const Practise = lazy(() => import('../prints/Practise').then((m) => ({ default: m.Practise })))

/** What lies on the bench: open cases with what comes next, and the pairs. */
export default function Bench() {
  const cases = useCases()
  const machines = useMachines()
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
      <div className={ui.pagehead}>
        <h1>Bench</h1>
        <span className={ui.grow} />
        <Button type="primary" onClick={() => void navigate('/cases/new')}>
          New case
        </Button>
      </div>
      <Loaded query={cases}>
        {(list) => {
          const open = list.filter((c) => c.status === 'open')
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
            </section>
          )
        }}
      </Loaded>
      {machines.data?.length === 0 && (
        <section className={clsx(ui.sheet, ui.stack)} style={{ marginTop: 16 }} aria-label="Practice">
          <h2>No printer at hand?</h2>
          <p className={ui.faint}>
            Practise on a simulated one. Something is wrong with it: print, look, find out what, and put it
            right.
          </p>
          <Suspense fallback={null}>
            <Practise />
          </Suspense>
        </section>
      )}
      <h2 style={{ margin: '24px 0 10px' }}>Readiness of the pairs</h2>
      <Readiness pairId={pairId} choose={choose} />
    </>
  )
}

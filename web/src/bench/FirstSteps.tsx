import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { Check } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useFilaments, useMachines, usePairs } from '../api/queries'
import { later } from '../components/later'
import { Problem } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './FirstSteps.module.css'

const PairChooser = later(() => import('../pairs/PairChooser'), { what: 'The choice of a pair', over: true })
const StartFromFile = later(() => import('./StartFromFile'), {
  what: 'The way from a path file',
})
const Practise = later(() => import('../prints/Practise'), {
  what: 'Practice',
})

/** The way from an empty bench to the first case: what is done, what comes next, and the two shorter ways. */
export default function FirstSteps() {
  const rolls = useFilaments().data
  const machines = useMachines().data
  const pairs = usePairs().data
  const [choosing, setChoosing] = useState(false)
  const client = useQueryClient()
  const { choose } = useCurrentPair()
  const open = useMutation({
    mutationFn: () => api.pairs.open(machines![0].id, rolls![0].id),
    onSuccess: async (pair) => {
      client.setQueryData(keys.pairs.one(pair.id), pair)
      await changed.pairs(client)
      choose(pair.id)
    },
  })
  if (!rolls || !machines || !pairs) return null
  const oneOfEach = rolls.length === 1 && machines.length === 1
  const steps = [
    {
      title: 'A roll',
      text: 'What its label says: the maker’s ranges are where the first recipe begins.',
      done: rolls.length > 0,
      action: <Link to="/shelf/new">Add a roll</Link>,
    },
    {
      title: 'A machine',
      text: 'Begin with a kind in general words; what you know better you change.',
      done: machines.length > 0,
      action: <Link to="/machines/new">Add a machine</Link>,
    },
    {
      title: 'The pair',
      text: 'A recipe belongs to a filament on a machine. It is derived at once.',
      done: pairs.length > 0,
      action:
        rolls.length && machines.length ? (
          <Button
            size="small"
            loading={open.isPending}
            onClick={() => (oneOfEach ? open.mutate() : setChoosing(true))}
          >
            {oneOfEach ? `${rolls[0].filament.name} on ${machines[0].machine.name}` : 'Choose them'}
          </Button>
        ) : null,
    },
    {
      title: 'The first case',
      text: 'The print that came out wrong: mark what you see, and the first change is proposed.',
      done: false,
      action: pairs.length > 0 ? <Link to="/cases/new">Begin a case</Link> : null,
    },
  ]
  const next = steps.findIndex((s) => !s.done)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="First steps">
      <h2>First steps</h2>
      <ol className={styles.steps}>
        {steps.map((s, i) => (
          <li key={s.title} data-done={s.done || undefined} aria-current={i === next ? 'step' : undefined}>
            <span className={styles.number} aria-hidden="true">
              {s.done ? <Check size={15} strokeWidth={2.4} /> : i + 1}
            </span>
            <span className={styles.told}>
              <strong>{s.title}</strong>
              {s.done && <span className={ui.visuallyHidden}> done</span>}
              <span className={ui.faint}>{s.text}</span>
            </span>
            {!s.done && s.action}
          </li>
        ))}
      </ol>
      {!!open.error && <Problem error={open.error} />}
      <div className={styles.ways}>
        <StartFromFile rolls={rolls} machines={machines} />
        <section className={ui.stack} style={{ gap: 6 }} aria-label="Practice">
          <h3>No printer at hand?</h3>
          <p className={ui.faint}>
            Practise on a simulated one. Something is wrong with it: print, look, find out what, and put it
            right.
          </p>
          <Practise />
        </section>
      </div>
      {choosing && <PairChooser onClose={() => setChoosing(false)} />}
    </section>
  )
}

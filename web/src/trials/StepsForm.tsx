import { Button, InputNumber, Select } from 'antd'
import type { PairDetail } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import { proposeSteps, variedOf, type PieceId, type PiecePlan, type VariedKey } from '@verimend/core/trials'
import { variedLabel } from '@verimend/core/words'
import { useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { newId } from '../api/ids'
import { Problem } from '../components/states'
import { onBench } from '../pairs/onBench'
import { wasEnded } from '../work/jobs'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './StepsForm.module.css'

/** What is stepped, and between which heights. */
export interface StepsAsked extends Pick<PiecePlan, 'piece' | 'steps'> {
  /** mm */
  heights: { from: number; to: number }
}

/** A trial in bands of the height of something that is printed anyway: what is stepped, from where to where. */
export function StepsForm({
  title,
  about,
  choices,
  pair,
  height,
  caseId,
  planOf,
}: {
  title: string
  about: string
  choices: readonly { piece: PieceId; key: VariedKey }[]
  pair: PairDetail
  /** mm */
  height: number
  /** The case it is made for. */
  caseId: string | null
  /** Makes a plan of what was asked; what the piece is made from is kept by then. */
  planOf: (asked: StepsAsked) => PiecePlan | Promise<PiecePlan>
}) {
  const navigate = useNavigate()
  const [open, setOpen] = useState(false)
  const [what, setWhat] = useState(0)
  const { piece, key } = choices[what]
  const proposed = useMemo(() => proposeSteps(onBench(pair), piece, key).steps, [pair, piece, key])
  const [steps, setSteps] = useState<typeof proposed | null>(null)
  const s = steps ?? proposed
  const [heights, setHeights] = useState<{ from: number; to: number } | null>(null)
  const h = heights ?? {
    from: Number(Math.min(2, height / 4).toFixed(1)),
    to: Math.ceil(height * 10 - 1e-6) / 10,
  }
  const unit = variedOf(key).unit
  const made = useRef({ of: '', id: '' })
  const [making, setMaking] = useState(false)
  const [error, setError] = useState<unknown>(null)
  const make = async () => {
    setMaking(true)
    setError(null)
    try {
      const plan = await planOf({ piece, steps: { ...s, key }, heights: h })
      // asked for again after a lost answer, it is the same trial
      const of = JSON.stringify(plan)
      if (made.current.of !== of) made.current = { of, id: newId() }
      const trial = await api.trials.create(made.current.id, pair.id, plan, caseId)
      void navigate(`/trials/${trial.id}`)
    } catch (e) {
      if (!wasEnded(e)) setError(e)
    } finally {
      setMaking(false)
    }
  }
  const number = (label: string, value: number, onChange: (v: number) => void, suffix: string, step = 1) => (
    <label>
      {label}
      <InputNumber
        size="small"
        value={value}
        step={step}
        suffix={suffix}
        aria-label={`Steps: ${label}, ${suffix}`}
        onChange={(v) => typeof v === 'number' && onChange(v)}
        style={{ width: 104 }}
      />
    </label>
  )
  return (
    <details className={ui.sheet} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>{title}</summary>
      {open && (
        <div className={ui.stack} style={{ marginTop: 10 }}>
          <p className={clsx(ui.faint, ui.small)}>{about}</p>
          <div className={styles.controls}>
            <Select
              size="small"
              value={what}
              aria-label="What is stepped"
              onChange={(v) => {
                setWhat(v)
                setSteps(null)
              }}
              options={choices.map((o, i) => ({ value: i, label: variedLabel(o.key) }))}
              style={{ width: 210 }}
            />
            {number('from', s.from, (from) => setSteps({ ...s, from }), unit)}
            {number('to', s.to, (to) => setSteps({ ...s, to }), unit)}
            {number('in', s.count, (count) => setSteps({ ...s, count: Math.round(count) }), 'steps')}
            {number('between', h.from, (from) => setHeights({ ...h, from }), 'mm', 0.5)}
            {number('and', h.to, (to) => setHeights({ ...h, to }), 'mm', 0.5)}
            <Button size="small" type="primary" loading={making} onClick={() => void make()}>
              Make the trial
            </Button>
          </div>
          <span className={clsx(ui.faint, ui.small)}>
            Each band is {figure((h.to - h.from) / Math.max(1, s.count), 1)} mm high, the first step lowest.
          </span>
          {!!error && <Problem error={error} />}
        </div>
      )}
    </details>
  )
}

import { useMutation } from '@tanstack/react-query'
import { Button, InputNumber, Select } from 'antd'
import type { PairDetail, PartRecord, PartVersion } from '@verimend/contract'
import { figure } from '@verimend/core/quantity'
import type { Layout } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { STEPPED_ON_PART, proposeSteps, variedOf, type PiecePlan } from '@verimend/core/trials'
import { variedLabel } from '@verimend/core/words'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { Problem } from '../components/states'
import { onBench } from '../pairs/onBench'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'
import { newId } from '../api/ids'

/** A trial on the part itself: bands of its height at stepped heat, fan or speed. */
export function StepTrial({
  part,
  version,
  pair,
  layout,
  own,
  height,
}: {
  part: PartRecord
  version: PartVersion
  pair: PairDetail
  layout: Layout
  own: Changes
  /** mm, as it stands. */
  height: number
}) {
  const navigate = useNavigate()
  const [what, setWhat] = useState(0)
  const { piece, key } = STEPPED_ON_PART[what]
  const proposed = useMemo(() => proposeSteps(onBench(pair), piece, key).steps, [pair, piece, key])
  const [steps, setSteps] = useState<typeof proposed | null>(null)
  const s = steps ?? proposed
  const [heights, setHeights] = useState<{ from: number; to: number } | null>(null)
  const h = heights ?? { from: Math.min(2, height / 4), to: Number(height.toFixed(1)) }
  const unit = variedOf(key).unit
  const openCase = part.cases.find((c) => c.status === 'open' && c.pairId === pair.id)
  const make = useMutation({
    mutationFn: () => {
      const plan: PiecePlan = {
        piece,
        steps: { ...s, key },
        onPart: {
          partId: part.id,
          name: part.name,
          version: version.number,
          sha256: version.sha256,
          unit: version.unit,
          layout,
          own,
          ...h,
        },
      }
      return api.trials.create(newId(), pair.id, plan, openCase?.id ?? null)
    },
    onSuccess: (t) => navigate(`/trials/${t.id}`),
  })
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
    <details className={ui.sheet}>
      <summary>Try it in steps on this part</summary>
      <div className={ui.stack} style={{ marginTop: 10 }}>
        <p className={clsx(ui.faint, ui.small)}>
          Bands of its height are printed at stepped values, and read as a trial of this pair.
        </p>
        <div className={styles.controls}>
          <Select
            size="small"
            value={what}
            aria-label="What is stepped"
            onChange={(v) => {
              setWhat(v)
              setSteps(null)
            }}
            options={STEPPED_ON_PART.map((o, i) => ({ value: i, label: variedLabel(o.key) }))}
            style={{ width: 210 }}
          />
          {number('from', s.from, (from) => setSteps({ ...s, from }), unit)}
          {number('to', s.to, (to) => setSteps({ ...s, to }), unit)}
          {number('in', s.count, (count) => setSteps({ ...s, count: Math.round(count) }), 'steps')}
          {number('between', h.from, (from) => setHeights({ ...h, from }), 'mm', 0.5)}
          {number('and', h.to, (to) => setHeights({ ...h, to }), 'mm', 0.5)}
          <Button size="small" type="primary" loading={make.isPending} onClick={() => make.mutate()}>
            Make the trial
          </Button>
        </div>
        <span className={clsx(ui.faint, ui.small)}>
          Each band is {figure((h.to - h.from) / Math.max(1, s.count), 1)} mm high, the first step lowest.
        </span>
        {!!make.error && <Problem error={make.error} />}
      </div>
    </details>
  )
}

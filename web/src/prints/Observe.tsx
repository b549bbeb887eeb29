import { useMutation } from '@tanstack/react-query'
import { Button } from 'antd'
import type { PairDetail } from '@verimend/contract'
import type { CheckId } from '@verimend/core/knowledge'
import { useState } from 'react'
import { api } from '../api/client'
import { useLink } from '../api/queries'
import { Problem } from '../components/states'
import { Simulated } from './Simulated'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Checks that a simulated machine can be asked to show; others are answered by looking at its prints. */
const SHOWN: readonly CheckId[] = [
  'measure-diameter',
  'feed-100',
  'listen-nozzle',
  'paper-gauge',
  'clean-bed',
  'bed-thermometer',
  'watch-heater',
  'shake-axes',
  'feel-draught',
  'hang-thread',
  'inspect-gear',
  'cold-pull',
  'touch-cold-end',
  'weigh-and-dry',
  'look-at-roll',
  'bend-filament',
  'watch-layer',
]

/** Makes a check on a simulated machine: what is seen, felt or measured there, for the person to judge. */
export function Observe({ pair, check }: { pair: PairDetail; check: CheckId }) {
  const link = useLink(pair.machine.id)
  const probe = useMutation({ mutationFn: () => api.links.bed(pair.machine.id, pair.id) })
  const [visit, setVisit] = useState(1)
  const look = useMutation({
    mutationFn: () => api.links.observe(pair.machine.id, pair.id, check, visit),
    onSuccess: () => setVisit(visit + 1),
  })
  if (link && check === 'probe-grid')
    return (
      <div className={ui.stack} style={{ gap: 6 }}>
        <div className={ui.row}>
          <Button size="small" loading={probe.isPending} onClick={() => probe.mutate()}>
            Probe the bed of {pair.machine.machine.name}
          </Button>
          <Simulated />
        </div>
        {probe.data && (
          <>
            <p className={clsx(ui.small, ui.faint)}>
              X, Y and height, mm. Copy it into a measurement of the bed.
            </p>
            <pre
              className={ui.small}
              style={{ maxHeight: 160, overflow: 'auto' }}
              tabIndex={0}
              aria-label="What the probe touched"
            >
              {probe.data.points.map(({ x, y, z }) => `${x}, ${y}, ${z}`).join('\n')}
            </pre>
          </>
        )}
        {!!probe.error && <Problem error={probe.error} />}
      </div>
    )
  if (!link || !SHOWN.includes(check)) return null
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        <Button size="small" loading={look.isPending} onClick={() => look.mutate()}>
          Do it on {pair.machine.machine.name}
        </Button>
        <Simulated />
      </div>
      {look.data && (
        <p aria-live="polite">
          {look.data.text}{' '}
          {look.data.values.length > 0 && (
            <span className={clsx(ui.figure, ui.wrap)} style={{ whiteSpace: 'normal' }}>
              {look.data.values.join(', ')} {look.data.unit}
            </span>
          )}
        </p>
      )}
      {!!look.error && <Problem error={look.error} />}
    </div>
  )
}

import type { PairDetail } from '@verimend/contract'
import { rollReach } from '@verimend/core/casework'
import { figure, quantity } from '@verimend/core/quantity'
import type { PathReading } from '@verimend/core/toolpath'
import type { Pause } from '@verimend/core/rewrite'
import { InputNumber, Radio } from 'antd'
import { clsx } from 'clsx'
import { useState } from 'react'
import ui from '../components/ui.module.css'
import { ChangedFileView } from './ChangedFileView'
import type { WholeFile } from './StepsInFile'

const WAYS: { value: Pause; label: string }[] = [
  { value: 'M600', label: 'M600, for a machine that knows how to change the roll' },
  { value: 'M0', label: 'M0, for any other: it rises off the part and waits for a button' },
]

/** Puts a pause into the file, where the roll runs out or wherever it is wanted. */
export function PauseInFile({
  whole,
  name,
  reading,
  pair,
}: {
  whole: WholeFile
  name: string
  reading: PathReading
  pair: PairDetail
}) {
  const [open, setOpen] = useState(false)
  const { weightLeft } = pair.filament.filament
  const reach = rollReach(reading, weightLeft)
  const [asked, setAsked] = useState<number | null>(null)
  const height = asked ?? Number((reach.runsOut?.joinAt.z ?? reading.height / 2).toFixed(2))
  const [command, setCommand] = useState<Pause>('M600')
  const layer = reading.layers.z.findIndex((z) => z > height + 1e-4)
  return (
    <details className={ui.sheet} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Pause it for another roll</summary>
      {open && (
        <div className={ui.stack} style={{ marginTop: 10 }}>
          <p className={clsx(ui.faint, ui.small)}>
            {weightLeft === null
              ? 'Nobody has noted how much is left on this roll.'
              : reach.runsOut
                ? `${quantity(weightLeft, 'g', 0)} are left on the roll and this file takes ${quantity(reach.grams, 'g', reach.grams < 10 ? 1 : 0)}, so it runs out near ${quantity(reach.runsOut.z, 'mm', 1)}. The layer proposed is a slow one before that, where a join shows least.`
                : `${quantity(weightLeft, 'g', 0)} are left on the roll and this file takes ${quantity(reach.grams, 'g', reach.grams < 10 ? 1 : 0)}, so it is enough.`}
          </p>
          <div className={ui.row}>
            <label className={ui.row} style={{ gap: 6 }}>
              Pause at
              <InputNumber
                size="small"
                aria-label="Pause at, mm"
                value={height}
                min={0}
                step={0.2}
                suffix="mm"
                style={{ width: 110 }}
                onChange={(v) => setAsked(v ?? 0)}
              />
            </label>
            <span className={clsx(ui.faint, ui.small)}>
              {layer < 1 ? 'Nothing is laid above this height.' : `Before layer ${layer + 1} begins.`}
            </span>
          </div>
          <Radio.Group
            aria-label="How the machine is told to wait"
            value={command}
            onChange={(e) => setCommand(e.target.value as Pause)}
            options={WAYS}
          />
          <ChangedFileView
            key={`${height} ${command}`}
            source={whole.source}
            name={name}
            settings={[]}
            besides={{
              change: { kind: 'pause', height, command },
              name: `pause at ${figure(height, 2)} mm`,
            }}
            recipe={pair.version.values}
            pair={pair}
            label="Put the pause in"
          />
        </div>
      )}
    </details>
  )
}

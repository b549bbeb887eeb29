import { Button, InputNumber } from 'antd'
import type { MeasuredOf, RippleReading } from '@verimend/core/measurement'
import { Plus, X } from 'lucide-react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

type Ripples = MeasuredOf<'ripples'>

/** Spacing of ripples after a corner at several speeds. */
export function RipplesEditor({ value, onChange }: { value: Ripples; onChange: (value: Ripples) => void }) {
  const { readings, allowed } = value
  const edit = (i: number, change: Partial<RippleReading>) =>
    onChange({ ...value, readings: readings.map((r, k) => (k === i ? { ...r, ...change } : r)) })
  return (
    <div className={ui.stack}>
      <p className={clsx(ui.faint, ui.small)}>
        Measure over several crests and divide. Two speeds at least, one twice the other; speed fins have them
        side by side.
      </p>
      <table className={ui.plain}>
        <thead>
          <tr>
            <th>Speed, mm/s</th>
            <th>Crest to crest, mm</th>
            <th>First crest, mm</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {readings.map((r, i) => (
            <tr key={i}>
              <td>
                <InputNumber
                  aria-label={`Speed ${i + 1}`}
                  min={1}
                  max={2000}
                  value={r.speed}
                  onChange={(v) => v && edit(i, { speed: v })}
                  style={{ width: 100 }}
                />
              </td>
              <td>
                <InputNumber
                  aria-label={`Spacing ${i + 1}`}
                  min={0.01}
                  max={500}
                  step={0.1}
                  value={r.spacing}
                  onChange={(v) => v && edit(i, { spacing: v })}
                  style={{ width: 100 }}
                />
              </td>
              <td>
                <InputNumber
                  aria-label={`Crest ${i + 1}`}
                  min={0}
                  max={5}
                  step={0.01}
                  value={r.height}
                  onChange={(v) => edit(i, { height: v })}
                  style={{ width: 100 }}
                />
              </td>
              <td>
                <Button
                  type="text"
                  size="small"
                  aria-label={`Remove speed ${i + 1}`}
                  icon={<X size={14} aria-hidden="true" />}
                  onClick={() => onChange({ ...value, readings: readings.filter((_, k) => k !== i) })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className={ui.row}>
        <Button
          size="small"
          icon={<Plus size={14} aria-hidden="true" />}
          disabled={readings.length >= 40}
          onClick={() =>
            onChange({
              ...value,
              readings: [
                ...readings,
                {
                  speed: (readings.at(-1)?.speed ?? 20) * 2,
                  spacing: readings.at(-1)?.spacing ?? 1,
                  height: null,
                },
              ],
            })
          }
        >
          A speed
        </Button>
        <label className={clsx(ui.row, ui.small)}>
          Crests may stand out
          <InputNumber
            aria-label="Crests may stand out"
            min={0.001}
            max={1}
            step={0.01}
            value={allowed}
            onChange={(v) => v && onChange({ ...value, allowed: v })}
            suffix="mm"
            style={{ width: 110 }}
          />
        </label>
      </div>
    </div>
  )
}

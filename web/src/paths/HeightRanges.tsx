import { Button, InputNumber } from 'antd'
import type { HeightRange } from '@verimend/core/toolpath'
import ui from '../components/ui.module.css'

const tenths = (v: number) => Number(v.toFixed(1))

/** The marked heights, to be typed, corrected and taken away. */
export function HeightRanges({
  ranges,
  top,
  onRanges,
}: {
  ranges: readonly HeightRange[]
  /** Height of the part, mm. */
  top: number
  onRanges: (ranges: HeightRange[]) => void
}) {
  const change = (i: number, part: Partial<HeightRange>) =>
    onRanges(ranges.map((m, k) => (k === i ? { ...m, ...part } : m)))
  const end = (i: number, which: 'from' | 'to') => (
    <InputNumber
      size="small"
      min={0}
      max={top}
      step={0.2}
      value={ranges[i][which]}
      aria-label={`Flaw ${i + 1}, ${which}, mm`}
      onChange={(v) => typeof v === 'number' && change(i, { [which]: v })}
      style={{ width: 74 }}
    />
  )
  return (
    <div className={ui.row}>
      {ranges.map((_, i) => (
        <span key={i} className={ui.row} style={{ gap: 4 }}>
          {end(i, 'from')}–{end(i, 'to')}
          <span style={{ marginRight: 4 }}>mm</span>
          <Button size="small" type="text" onClick={() => onRanges(ranges.filter((_, k) => k !== i))}>
            Remove
          </Button>
        </span>
      ))}
      <Button
        size="small"
        onClick={() => onRanges([...ranges, { from: tenths(top * 0.45), to: tenths(top * 0.55) }])}
      >
        {ranges.length ? 'Mark another height' : 'Mark a height'}
      </Button>
      {ranges.length > 1 && (
        <Button size="small" type="text" onClick={() => onRanges([])}>
          Clear
        </Button>
      )}
    </div>
  )
}

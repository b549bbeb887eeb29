import { InputNumber, Space } from 'antd'
import type { Range } from '@verimend/core/material'

/** Two numbers for a range; empty both for "not on the label". */
export function RangeField({
  value,
  onChange,
  unit,
  id,
  label,
}: {
  value?: Partial<Range> | null
  onChange?: (v: Partial<Range> | null) => void
  unit: string
  id?: string
  label: string
}) {
  const set = (part: Partial<Range>) => {
    const next = { ...value, ...part }
    onChange?.(next.min == null && next.max == null ? null : next)
  }
  return (
    <Space.Compact block>
      <InputNumber
        id={id}
        aria-label={`${label}, from`}
        placeholder="from"
        value={value?.min ?? null}
        onChange={(v) => set({ min: v ?? undefined })}
        style={{ width: '50%' }}
      />
      <InputNumber
        aria-label={`${label}, to`}
        placeholder="to"
        value={value?.max ?? null}
        onChange={(v) => set({ max: v ?? undefined })}
        style={{ width: '50%' }}
        suffix={unit}
      />
    </Space.Compact>
  )
}

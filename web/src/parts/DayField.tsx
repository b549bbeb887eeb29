import { Button } from 'antd'
import { today } from './format'

/** A day of the calendar, with today at hand. */
export function DayField({
  value,
  onChange,
  id,
}: {
  value?: string | null
  onChange?: (v: string | null) => void
  id?: string
}) {
  return (
    <div className="row" style={{ flexWrap: 'nowrap' }}>
      <input
        id={id}
        type="date"
        className="nativedate"
        max={today()}
        value={value ?? ''}
        onChange={(e) => onChange?.(e.target.value || null)}
      />
      <Button size="small" onClick={() => onChange?.(today())}>
        Today
      </Button>
    </div>
  )
}

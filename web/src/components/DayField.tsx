import { Button } from 'antd'
import { today } from './format'
import ui from './ui.module.css'
import styles from './DayField.module.css'

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
    <div className={ui.row} style={{ flexWrap: 'nowrap' }}>
      <input
        id={id}
        type="date"
        className={styles.nativedate}
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

import { Button, DatePicker } from 'antd'
import dayjs from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat'
import { today } from './format'
import ui from './ui.module.css'

// days are read as they are typed
dayjs.extend(customParseFormat)

const ISO = 'YYYY-MM-DD'
/** How a day is shown, and how it may be typed: the month by its name, so that its place is never in doubt. */
const FORMATS = ['D MMM YYYY', ISO, 'D MMMM YYYY', 'D.M.YYYY']

/** A day of the calendar, with today at hand. */
export function DayField({
  value,
  onChange,
  id,
}: {
  /** YYYY-MM-DD */
  value?: string | null
  onChange?: (v: string | null) => void
  id?: string
}) {
  const day = value ? dayjs(value, ISO) : null
  return (
    <div className={ui.row} style={{ flexWrap: 'nowrap' }}>
      <DatePicker
        id={id}
        format={FORMATS}
        placeholder="day month year"
        value={day?.isValid() ? day : null}
        maxDate={dayjs(today(), ISO)}
        showNow={false}
        onChange={(d) => onChange?.(d ? d.format(ISO) : null)}
        style={{ minWidth: 0, flex: 1 }}
      />
      <Button size="small" onClick={() => onChange?.(today())}>
        Today
      </Button>
    </div>
  )
}

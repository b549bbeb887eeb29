import { settingOf, type SettingChange } from '@verimend/core/recipe'
import { settingLabel } from '@verimend/core/words'
import { InputNumber } from 'antd'
import ui from '../components/ui.module.css'

/** Asks what was printed with, where no file shows it: until somebody says otherwise, what the recipe has. */
export function PrintedAt({
  change: c,
  onChange,
}: {
  change: SettingChange
  onChange: (change: SettingChange) => void
}) {
  const s = settingOf(c.key)
  if (s.kind !== 'number') return null
  return (
    <label className={ui.row} style={{ gap: 6 }}>
      <span className={ui.faint}>printed with</span>
      <InputNumber
        size="small"
        aria-label={`${settingLabel(c.key)}, printed with`}
        value={c.from as number | undefined}
        min={s.min}
        max={s.max}
        step={s.step}
        suffix={s.unit}
        style={{ width: 120 }}
        onChange={(v) => onChange({ ...c, from: v ?? undefined })}
      />
      <span className={ui.faint}>→</span>
    </label>
  )
}

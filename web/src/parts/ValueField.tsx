import { InputNumber, Select, Switch } from 'antd'
import { settingOf, type SettingKey, type SettingValue } from '@verimend/core/recipe'

/** A setting's value to be changed, as its kind asks for it. */
export function ValueField({
  name,
  value,
  onChange,
}: {
  name: SettingKey
  value: SettingValue
  onChange: (value: SettingValue) => void
}) {
  const s = settingOf(name)
  if (s.kind === 'switch')
    return <Switch size="small" checked={value === true} onChange={onChange} aria-label={s.label} />
  if (s.kind === 'choice')
    return (
      <Select
        size="small"
        value={value as string}
        onChange={onChange}
        options={[...s.choices]}
        aria-label={s.label}
        style={{ width: 150 }}
      />
    )
  return (
    <InputNumber
      size="small"
      value={value as number}
      min={s.min}
      max={s.max}
      step={s.step}
      onChange={(v) => typeof v === 'number' && onChange(v)}
      aria-label={`${s.label}, ${s.unit}`}
      suffix={s.unit}
      style={{ width: 116 }}
    />
  )
}

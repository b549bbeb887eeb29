import { Button, Select } from 'antd'
import { X } from 'lucide-react'
import {
  GROUPS,
  NOT_LAID,
  SETTING_KEYS,
  keysOf,
  settingApplies,
  settingOf,
  type Changes,
  type RecipeValues,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'
import { settingLabel, settingMatches, valueText } from '@verimend/core/words'
import { ValueField } from './ValueField'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

/** Settings in their groups, to choose one from; the trade's other words find them too. */
const OPTIONS = GROUPS.map((g) => ({
  label: g.label,
  options: SETTING_KEYS.filter((k) => settingOf(k).group === g.id).map((k) => ({
    value: k,
    label: settingLabel(k),
  })),
}))

/** Settings that move no line themselves, but other settings that do. */
const MOVES_OTHERS: readonly SettingKey[] = ['meltCap', 'pace']

/** Values that are otherwise than in the recipe, each to be set or taken off again; and one more to be chosen. */
export function ChangesEditor({
  changes,
  recipe,
  onChange,
  label,
}: {
  changes: Changes
  /** As it is without these changes. */
  recipe: RecipeValues
  onChange: (changes: Changes) => void
  label: string
}) {
  const set = (key: SettingKey, value: SettingValue) => onChange({ ...changes, [key]: value } as Changes)
  const drop = (key: SettingKey) =>
    onChange(Object.fromEntries(Object.entries(changes).filter(([k]) => k !== key)) as Changes)
  const keys = keysOf(changes)
  const values = {
    ...recipe,
    ...Object.fromEntries(keys.map((k) => [k, { ...recipe[k], value: changes[k]! }])),
  }
  const idle = keys.flatMap((key) => {
    const why =
      (MOVES_OTHERS.includes(key) ? null : NOT_LAID[key]) ??
      (settingApplies(key, values as RecipeValues) ? null : 'It does not matter with the recipe as it is.')
    return why ? [{ key, why }] : []
  })
  return (
    <div className={styles.tried} role="group" aria-label={label}>
      {keys.map((key) => (
        <span key={key} className={styles.change} data-change={key}>
          <span>{settingLabel(key)}</span>
          <span className={clsx(ui.faint, ui.figure)}>{valueText(key, recipe[key].value)} →</span>
          <ValueField name={key} value={changes[key]!} onChange={(v) => set(key, v)} />
          <Button
            size="small"
            type="text"
            icon={<X size={14} />}
            aria-label={`Take ${settingLabel(key)} off`}
            onClick={() => drop(key)}
          />
        </span>
      ))}
      <Select
        showSearch={{
          filterOption: (wanted, option) =>
            !!option && 'value' in option && settingMatches(option.value as SettingKey, wanted),
        }}
        size="small"
        value={null}
        placeholder={keys.length ? 'and another setting' : 'Choose a setting'}
        aria-label={`${label}: choose a setting`}
        options={OPTIONS.map((g) => ({ ...g, options: g.options.filter((o) => !(o.value in changes)) }))}
        onChange={(key: SettingKey | null) => key && set(key, recipe[key].value)}
        style={{ width: 210 }}
        popupMatchSelectWidth={280}
      />
      {idle.map(({ key, why }) => (
        <p key={key} className={clsx(ui.caution, ui.small)} style={{ flexBasis: '100%' }}>
          {settingLabel(key)} moves nothing here. {why}
        </p>
      ))}
    </div>
  )
}

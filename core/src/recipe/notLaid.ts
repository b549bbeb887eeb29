import type { SettingKey } from './settings'

/** Settings that move no line when a part is laid, and why. */
export const NOT_LAID: Partial<Record<SettingKey, string>> = {
  chamber: 'The machine’s commands have none for it.',
  density: 'It weighs what is laid and moves nothing.',
  meltCap: 'It has capped the speeds already, when they were derived.',
  pace: 'It chose among derived values already.',
}

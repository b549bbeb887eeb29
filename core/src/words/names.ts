import { figure, quantity } from '../quantity/format'
import { checkOrTrial, type LookId } from '../knowledge/checks'
import { FACTS, type FactKey } from '../knowledge/facts'
import { procedureOf, type ProcedureId } from '../knowledge/procedures'
import { signOf, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { cardOf, type FamilyId } from '../material/cards'
import { digitsOf, settingOf, type SettingKey, type SettingValue } from '../recipe/settings'
import { PIECES } from '../trials/pieces'
import type { PieceId, VariedKey } from '../trials/types'
import { roundVaried, variedOf } from '../trials/varied'

// ---- what things are called in the middle of a sentence
export const familyName = (id: FamilyId) => cardOf(id).name
export const settingLabel = (key: SettingKey) => settingOf(key).label
export const signName = (id: SignId) => signOf(id).name
export const suspectName = (id: SuspectId) => suspectOf(id).name
export const lookName = (id: LookId) => checkOrTrial(id).name
export const procedureName = (id: ProcedureId) => procedureOf(id).name
export const pieceName = (id: PieceId) => PIECES[id].name
export const lower = (text: string) => text.toLowerCase()
export const capital = (text: string) => text[0].toUpperCase() + text.slice(1)
export const listed = (names: readonly string[], last = 'and') =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} ${last} ${names[names.length - 1]}`
export const signNames = (ids: readonly SignId[]) => ids.map((s) => lower(signName(s))).join(', ')
export const settingLabels = (keys: readonly SettingKey[]) => keys.map(settingLabel).join(', ')

/** A setting's value with its unit. */
export function valueText(key: SettingKey, value: SettingValue): string {
  const s = settingOf(key)
  if (s.kind === 'switch') return value ? 'on' : 'off'
  if (s.kind === 'choice') return s.choices.find((c) => c.value === value)?.label ?? String(value)
  return quantity(Number(value), s.unit, digitsOf(s))
}

/** A setting with a value: "Retraction length 5 mm". */
export const settingText = (key: SettingKey, value: SettingValue) =>
  `${settingLabel(key)} ${valueText(key, value)}`

/** A value without its unit, as tables show it. */
export function bareText(key: SettingKey, value: SettingValue): string {
  const s = settingOf(key)
  return s.kind === 'number' ? figure(Number(value), Math.max(digitsOf(s), 3)) : valueText(key, value)
}

/** A stepped value of a trial with its unit. */
export function variedText(key: VariedKey, value: number): string {
  const { unit, digits } = variedOf(key)
  return quantity(roundVaried(key, value), unit, digits)
}
export const variedLabel = (key: VariedKey) => variedOf(key).label

/** A fact's value with its unit. */
export function factText(key: FactKey, value: number | boolean): string {
  const f: { unit: string; digits?: number } = FACTS[key]
  return typeof value === 'number' ? quantity(value, f.unit, f.digits ?? 0) : value ? 'yes' : 'no'
}

/** Heights from one to another, mm. */
export const heightsText = (from: number, to: number) => `${figure(from, 1)}–${quantity(to, 'mm', 1)}`

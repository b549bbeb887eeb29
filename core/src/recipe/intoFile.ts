import type { FileChange } from '../rewrite/change'
import type { PathReading } from '../toolpath/reading'
import type { ValuesOnly } from './derive'
import { SETTING_KEYS, settingOf, type SettingKey, type SettingValue } from './settings'
import type { InFile, WriteIntoFile } from './settings/types'

/** A setting with a new value, and what it was printed with as far as that is known. */
export interface SettingChange {
  key: SettingKey
  from?: SettingValue
  to: SettingValue
}

const writeOf = (key: SettingKey) => settingOf(key).write as WriteIntoFile<SettingValue> | undefined

/** Whether a setting can be changed in a finished file: no line has to be laid elsewhere for it. */
export const writesIntoFile = (key: SettingKey): boolean => writeOf(key) !== undefined

/** Settings that can be changed in a finished file, group by group. */
export const FILE_KEYS: readonly SettingKey[] = SETTING_KEYS.filter(writesIntoFile)

/**
 * What a file was printed with: what it shows of a setting, else what is known of it.
 * @returns null where neither says it
 */
export function printedWith(
  key: SettingKey,
  reading: PathReading,
  known: SettingValue | undefined,
): SettingValue | null {
  const read = (settingOf(key).inFile as InFile<SettingValue> | undefined)?.read(reading)
  if (typeof read === 'number' && Number.isFinite(read)) return read
  return (typeof read === 'number' ? null : read) ?? known ?? null
}

/** Whether a new value can only be written by who knows the old one, which no file shows. */
export function asksPrintedWith({ key, to }: SettingChange, recipe: ValuesOnly): boolean {
  if (settingOf(key).inFile) return false
  return !writeOf(key)?.(to, null, { ...recipe, [key]: { value: to } }) && writesIntoFile(key)
}

/** Settings that are put in with another one. */
const PUT_IN_WITH: Partial<Record<SettingKey, SettingKey>> = {
  retractLength: 'retract',
  retractSpeed: 'retract',
  restartExtra: 'retract',
  brimGap: 'brimLines',
}

/** What has to be done in a finished file for some settings. */
export interface IntoFile {
  changes: FileChange[]
  /** Settings that no finished file can be given: the part has to be laid anew. */
  laidAnew: SettingKey[]
  /** Settings of which it is not known what they were. */
  unknown: SettingKey[]
}

/**
 * The changes of a finished file that some settings come to.
 * @param recipe the recipe as it is to be
 */
export function changesOfFile(
  changes: readonly SettingChange[],
  reading: PathReading,
  recipe: ValuesOnly,
): IntoFile {
  const values: Record<string, { value: SettingValue }> = { ...recipe }
  for (const { key, to } of changes) values[key] = { value: to }
  const out: IntoFile = { changes: [], laidAnew: [], unknown: [] }
  const seen = new Set<string>()
  const putIn = (main: SettingKey | undefined) => changes.some(({ key, to }) => key === main && !!to)
  for (const { key, from, to } of changes) {
    if (putIn(PUT_IN_WITH[key])) continue
    const write = writeOf(key)
    if (!write) {
      out.laidAnew.push(key)
      continue
    }
    const change = write(to, printedWith(key, reading, from), values)
    if (!change) out.unknown.push(key)
    else if (!seen.has(JSON.stringify(change))) {
      seen.add(JSON.stringify(change))
      out.changes.push(change)
    }
  }
  return out
}

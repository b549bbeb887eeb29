import type { SignId } from '../../knowledge/signs'
import { SUSPECT_IDS, suspectOf } from '../../knowledge/suspects'
import type { SettingMend } from '../../knowledge/types'
import { keysOf, type SettingKey, type SettingValue } from '../../recipe/settings'

/** The way a mend moves its setting: up, down, or neither where it depends. */
export function directionOfMend(mend: SettingMend): 1 | -1 | 0 {
  if (mend.by !== undefined) return mend.by > 0 ? 1 : -1
  if (mend.times !== undefined) return mend.times > 1 ? 1 : -1
  if (mend.bound) return mend.bound === 'least' ? 1 : -1
  return 0
}

/** Signs that moving a setting a way can bring: the strong ones of suspects that are mended the other way. */
const AGAINST = new Map<string, SignId[]>()
for (const id of SUSPECT_IDS)
  for (const mend of suspectOf(id).mends) {
    if (mend.kind !== 'setting') continue
    const way = directionOfMend(mend)
    if (!way || mend !== suspectOf(id).mends[0]) continue
    const key = `${mend.key}:${-way}`
    const { signs } = suspectOf(id)
    AGAINST.set(key, [
      ...new Set([...(AGAINST.get(key) ?? []), ...keysOf(signs).filter((s) => signs[s] === 'S')]),
    ])
  }

/** Signs that a change of a setting can bring or make worse. */
export function signsAgainst(key: SettingKey, from: SettingValue, to: SettingValue): readonly SignId[] {
  return typeof from === 'number' && typeof to === 'number'
    ? (AGAINST.get(`${key}:${Math.sign(to - from)}`) ?? [])
    : []
}

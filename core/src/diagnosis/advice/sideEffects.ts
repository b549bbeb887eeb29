import type { SignId } from '../../knowledge/signs'
import type { LookId } from '../../knowledge/checks'
import { SUSPECT_IDS, suspectOf, type SuspectId } from '../../knowledge/suspects'
import type { SettingMend } from '../../knowledge/types'
import type { LookResult } from '../evidence/looks'
import type { SignStates } from '../inference/balance'
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

/** What moves when a setting goes up: outer sizes, holes and gaps between moving parts, larger (1) or smaller (−1). */
const MOVES_SIZES: Partial<Record<SettingKey, { outside: number; holes: number; gaps: number }>> = {
  contourOffset: { outside: 1, holes: -1, gaps: -1 },
  holeOffset: { outside: 0, holes: 1, gaps: 0 },
  scaleX: { outside: 1, holes: 1, gaps: 0 },
  scaleY: { outside: 1, holes: 1, gaps: 0 },
  flow: { outside: 1, holes: -1, gaps: -1 },
  flowOuter: { outside: 1, holes: -1, gaps: -1 },
}
/** What each sign of size says is off, and to which side. */
const SIZE_SIGNS = [
  { sign: 'outside-too-big', of: 'outside', side: 1 },
  { sign: 'outside-too-small', of: 'outside', side: -1 },
  { sign: 'holes-too-small', of: 'holes', side: -1 },
  { sign: 'moving-parts-fused', of: 'gaps', side: -1 },
  { sign: 'joint-too-loose', of: 'gaps', side: 1 },
] as const
type SizeSign = (typeof SIZE_SIGNS)[number]['sign']
/** The sign that a measured fault comes to. */
const MEASURED_AS: Partial<Record<SuspectId, SizeSign>> = {
  'contour-not-compensated': 'outside-too-big',
  'contour-overcompensated': 'outside-too-small',
  'shrink-not-compensated': 'outside-too-small',
  'hole-not-compensated': 'holes-too-small',
}
const MEASURES_SIZES: ReadonlySet<LookId> = new Set(['calipers', 'size-plate'])

/** Sizes that are off, by what was seen and by what was measured. */
export function sizesOff(signs: SignStates, found: readonly LookResult[]): SizeSign[] {
  const measured = found.flatMap((l) => {
    const sign = MEASURES_SIZES.has(l.by) && MEASURED_AS[l.suspect]
    return sign ? [sign] : []
  })
  return SIZE_SIGNS.map((s) => s.sign).filter((s) => signs[s] === 'present' || measured.includes(s))
}

/** The size that a change of a setting would move further off; null where there is none. */
export function movedOff(
  key: SettingKey,
  from: SettingValue,
  to: SettingValue,
  off: readonly SizeSign[],
): SizeSign | null {
  const moves = MOVES_SIZES[key]
  if (!moves || typeof from !== 'number' || typeof to !== 'number') return null
  const way = Math.sign(to - from)
  return SIZE_SIGNS.find(({ sign, of, side }) => off.includes(sign) && moves[of] * way === side)?.sign ?? null
}

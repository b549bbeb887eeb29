import type { FactKey, Facts } from '../../knowledge/facts'
import type { SettingMend } from '../../knowledge/types'
import type { Machine } from '../../machine/machine'
import type { Filament } from '../../material/filament'
import type { Reason } from '../../quantity/reason'
import { settingApplies } from '../../recipe/applies'
import {
  deriveRecipe,
  inheritedIn,
  machineLimit,
  pinsOf,
  type RecipeValues,
  type ValuesOnly,
} from '../../recipe/derive'
import { lintRecipe, type LintRuleId } from '../../recipe/lint/lint'
import { roundTo, settingOf, type SettingValue } from '../../recipe/settings'
import { because } from '../reasons'
import { directionOfMend } from './sideEffects'

/** What a mend comes to on this pair, from the values as printed. */
export type Aim =
  | { kind: 'change'; from: SettingValue; to: SettingValue }
  /** It is so already. */
  | { kind: 'there'; value: SettingValue }
  /** Something stands in the way, and is named. */
  | { kind: 'blocked'; why: Reason }
  /** The facts it rests on are not known, or it does not concern this pair. */
  | { kind: 'silent' }
export type Target = (mend: SettingMend) => Aim

export interface TargetInput {
  facts: Facts
  recipe: RecipeValues
  machine: Machine
  filament: Filament
  /** ISO date. */
  today: string
}

/** A step may grow to so many times its size where its goal is far. */
const LONGEST = 3

/**
 * Works out where mends lead from the values as printed: bounded steps towards their goal, fixed values that mean at
 * least or at most, within setting and machine, and never into a rule of severity fault that was not broken before.
 */
export function makeTarget(input: TargetInput, printed: ValuesOnly): Target {
  const { facts, machine } = input
  const number = (key: FactKey | undefined) => {
    const v = key && facts[key]?.value
    return typeof v === 'number' ? v : undefined
  }
  const faults = (values: ValuesOnly) =>
    lintRecipe({
      machine,
      filament: input.filament,
      values: values as RecipeValues,
      today: input.today,
    }).filter((w) => w.severity === 'fault')
  let before: Set<LintRuleId> | null = null

  /** Where a numeric mend wants to go, before limits; null where the facts say nothing. */
  function wished(mend: SettingMend, from: number): number | null {
    if (mend.times !== undefined) return from * mend.times
    if (mend.by === undefined) return (mend.toFact ? number(mend.toFact) : Number(mend.to)) ?? null
    const by = machine.drive.kind === 'direct' && mend.byDirect !== undefined ? mend.byDirect : mend.by
    const goal = number(mend.toward)
    const far = goal === undefined ? 0 : (goal - from) * Math.sign(by)
    return from + Math.sign(by) * Math.min(LONGEST * Math.abs(by), Math.max(Math.abs(by), far))
  }

  const followed = (values: ValuesOnly): ValuesOnly =>
    deriveRecipe({
      machine,
      filament: input.filament,
      relative: inheritedIn(input.recipe),
      pins: {
        ...pinsOf(input.recipe),
        meltCap: {
          value: values.meltCap.value,
          source: 'mend',
          reason: because('mend-helps', { suspect: 'melt-rate-exceeded', mend: 0 }),
        },
      },
    })

  return (mend) => {
    const { key } = mend
    if (mend.notWhen && facts[mend.notWhen]?.value === true) return { kind: 'silent' }
    if (mend.onlyWhen && facts[mend.onlyWhen]?.value !== true) return { kind: 'silent' }
    const setting = settingOf(key)
    const from = printed[key].value
    if (!settingApplies(key, printed, machine))
      return {
        kind: 'blocked',
        why: because('not-in-force', { setting: key, hangsOn: setting.when?.key ?? null }),
      }
    let to: SettingValue
    if (setting.kind === 'number') {
      if (typeof from !== 'number') return { kind: 'silent' }
      const wish = wished(mend, from)
      if (wish === null) return { kind: 'silent' }
      const way = directionOfMend(mend)
      // at least, at most: what lies beyond already is left there
      if (mend.bound && (wish - from) * way <= 0) return { kind: 'there', value: from }
      let held = wish
      let by: 'machine' | 'range' | 'setting' | null = null
      const least = number(mend.notBelow)
      const most = number(mend.notAbove)
      if (least !== undefined && held < Math.min(least, from)) {
        held = Math.min(least, from)
        by = 'range'
      }
      if (most !== undefined && held > Math.max(most, from)) {
        held = Math.max(most, from)
        by = 'range'
      }
      const limit = machineLimit(key, machine)
      if (limit !== undefined && held > limit) {
        held = limit
        by = limit < setting.max ? 'machine' : 'setting'
      }
      const rounded = roundTo(setting, held)
      // a step that rounding or a limit has swallowed, or turned round, is none
      if (rounded === from || (way && (rounded - from) * way <= 0))
        return mend.by === undefined && mend.times === undefined && !by
          ? { kind: 'there', value: from }
          : { kind: 'blocked', why: because('at-limit', { setting: key, value: from, by: by ?? 'setting' }) }
      to = rounded
    } else {
      if (mend.to === undefined) return { kind: 'silent' }
      if (mend.to === from) return { kind: 'there', value: from }
      to = mend.to
    }
    before ??= new Set(faults(printed).map((w) => w.rule))
    const moved = { ...printed, [key]: { ...printed[key], value: to, source: 'mend' } } as ValuesOnly
    // speeds follow the cap, those that were not set by hand
    const values = key === 'meltCap' ? followed(moved) : moved
    const broken = faults(values).find((w) => !before!.has(w.rule))
    if (broken)
      return {
        kind: 'blocked',
        why: because('breaks-rule', {
          setting: key,
          to,
          rule: { code: broken.code, values: broken.values as Reason['values'] },
        }),
      }
    return { kind: 'change', from, to }
  }
}

/** Whether going from the file's value to the recipe's is the way a mend goes. */
export function movesTo(
  mend: SettingMend,
  file: SettingValue,
  recipe: SettingValue,
  target: Target,
): boolean {
  if (typeof file === 'number' && typeof recipe === 'number') {
    const way = directionOfMend(mend)
    if (way) return Math.sign(recipe - file) === way
    const aim = target(mend)
    return (
      aim.kind === 'change' &&
      typeof aim.to === 'number' &&
      Math.sign(recipe - file) === Math.sign(aim.to - file)
    )
  }
  return mend.to === recipe
}

import type { SettingKey, SomeValues } from '../settings'
import { COOLING_LINT } from './cooling'
import { FIRST_LAYER_LINT } from './firstLayer'
import { FLOW_LINT } from './flow'
import { GRIP_LINT } from './grip'
import { RETRACTION_LINT } from './retraction'
import { ROLL_LINT } from './roll'
import {
  scopeOf,
  type LintCode,
  type LintContext,
  type LintReasons,
  type LintRule,
  type Remedy,
  type Severity,
} from './rule'
import { SIZE_LINT } from './size'
import { SPEED_LINT } from './speed'
import { TEMPERATURE_LINT } from './temperature'
import { WALLS_LINT } from './walls'

/** What catches things in a recipe that have bitten people before. Common practice throughout; no source. */
export const LINT_RULES = {
  ...FLOW_LINT,
  ...GRIP_LINT,
  ...COOLING_LINT,
  ...WALLS_LINT,
  ...FIRST_LAYER_LINT,
  ...TEMPERATURE_LINT,
  ...RETRACTION_LINT,
  ...SPEED_LINT,
  ...SIZE_LINT,
  ...ROLL_LINT,
}
export type LintRuleId = keyof typeof LINT_RULES
export const LINT_RULE_IDS = Object.keys(LINT_RULES) as LintRuleId[]

/** Something in a recipe that has bitten people before. */
export interface Warning {
  rule: LintRuleId
  severity: Severity
  /** What is so and why it matters, as a code with its values. */
  code: LintCode
  values: LintReasons[LintCode]
  /** Settings it is about, the first one first. */
  keys: SettingKey[]
  /** Values that put it right; null where the hand has to do it. */
  mend: SomeValues | null
  /** The hand's part, where there is one: a chapter of the handbook. */
  remedy?: Remedy
  /** Changes with the values it is about: an acknowledgement holds for these values only. */
  fingerprint: string
}

/** Longest fingerprint that is kept. */
const FINGERPRINT_LENGTH = 180
const ORDER: Record<Severity, number> = { fault: 0, caution: 1, note: 2 }

/**
 * Holds a recipe against the rules that catch what bites people. Pure; the worst first, then in the order of
 * the rules.
 */
export function lintRecipe(context: LintContext): Warning[] {
  const { values } = context
  const scope = scopeOf(context)
  const warnings: Warning[] = []
  for (const rule of LINT_RULE_IDS) {
    const { severity, find }: LintRule = LINT_RULES[rule]
    const f = find(scope)
    if (!f) continue
    const about = f.keys.map((k) => `${k}=${String(values[k].value)}`).join(',')
    warnings.push({
      rule,
      severity,
      code: f.code,
      values: f.values,
      keys: f.keys,
      mend: f.mend ?? null,
      ...(f.remedy && { remedy: f.remedy }),
      fingerprint: `${rule}:${about}${f.on === undefined ? '' : `@${f.on}`}`.slice(0, FINGERPRINT_LENGTH),
    })
  }
  return warnings.sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
}

import type { PathReading } from '../../../toolpath/reading'
import {
  findingScope,
  type FindingContext,
  type FindingKind,
  type FindingRule,
  type FindingSeverity,
  type PathFinding,
} from './finding'
import { FIRST_LAYER_FINDINGS } from './firstLayer'
import { FLOW_FINDINGS } from './flow'
import { HEAT_FINDINGS } from './heat'
import { SEAM_FINDINGS } from './seam'
import { SHAPE_FINDINGS } from './shape'
import { SPEED_FINDINGS } from './speed'
import { TRAVEL_FINDINGS } from './travel'

export type { FindingContext, FindingKind, FindingReasons, FindingSeverity, PathFinding } from './finding'

/** Thresholds come from card, machine and nozzle; where none is named they are common practice, no source. */
export const FINDING_RULES: { [Kind in FindingKind]: FindingRule } = {
  ...FIRST_LAYER_FINDINGS,
  ...SPEED_FINDINGS,
  ...HEAT_FINDINGS,
  ...FLOW_FINDINGS,
  ...TRAVEL_FINDINGS,
  ...SEAM_FINDINGS,
  ...SHAPE_FINDINGS,
}
export const FINDING_KINDS = Object.keys(FINDING_RULES) as FindingKind[]

const ORDER: Record<FindingSeverity, number> = { fault: 0, caution: 1, note: 2, good: 3 }

/** What a reading shows that bears on flaws; the worst first. Pure, from the reading alone. */
export function findingsOf(reading: PathReading, context: FindingContext): PathFinding[] {
  if (!reading.layerCount) return []
  const scope = findingScope(context)
  const findings: PathFinding[] = []
  for (const kind of FINDING_KINDS) {
    const { find, raises = [], clears = [] } = FINDING_RULES[kind]
    const f = find(reading, scope)
    if (!f) continue
    findings.push({
      kind,
      severity: f.severity,
      values: f.values,
      from: f.from ?? null,
      to: f.to ?? null,
      size: f.size ?? 1,
      raises,
      clears,
    })
  }
  return findings.sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
}
export { runsOutAtHeight } from './flow'

import { LINER_HEAT, type Machine } from '../../machine/machine'
import type { NumberKey, SettingKey } from '../settings'

const speed = (m: Machine) => m.limits.speed
const nozzle = (m: Machine) =>
  m.hotEnd === 'lined' ? Math.min(LINER_HEAT, m.limits.nozzle) : m.limits.nozzle
const fan = (m: Machine) => (m.fan.present ? 100 : 0)

/** Upper limits the machine sets. */
const LIMITS: { [K in NumberKey]?: (m: Machine) => number } = {
  nozzleFirst: nozzle,
  nozzle,
  bedFirst: (m) => m.limits.bed,
  bed: (m) => m.limits.bed,
  chamber: (m) => m.chamber ?? 0,
  firstSpeed: speed,
  outerSpeed: speed,
  innerSpeed: speed,
  solidSpeed: speed,
  topSpeed: speed,
  sparseSpeed: speed,
  bridgeSpeed: speed,
  smallLoopSpeed: speed,
  travelSpeed: speed,
  slowZoneSpeed: speed,
  speedFloor: speed,
  raftBottomSpeed: speed,
  raftTopSpeed: speed,
  outerAcceleration: (m) => m.limits.acceleration,
  innerAcceleration: (m) => m.limits.acceleration,
  firstAcceleration: (m) => m.limits.acceleration,
  travelAcceleration: (m) => m.limits.travelAcceleration,
  cornerChange: (m) => (m.limits.corner.kind === 'instant-change' ? m.limits.corner.limit : 50),
  junctionDeviation: (m) => (m.limits.corner.kind === 'junction-deviation' ? m.limits.corner.deviation : 0.5),
  fan,
  fanOverhang: fan,
  fanBridge: fan,
}

/** Highest value the machine allows for a setting; undefined where it sets none. */
export function machineLimit(key: SettingKey, machine: Machine): number | undefined {
  const limits: { [K in SettingKey]?: (m: Machine) => number } = LIMITS
  return limits[key]?.(machine)
}

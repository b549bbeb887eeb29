import { fullStep, type Machine } from '../machine/machine'

/** What can make bands that come again and again. */
export const PERIOD_CAUSES = [
  'screw-lead',
  'step-beat',
  'drive-gear',
  'nozzle-heater',
  'bed-heater',
  'belt-tooth',
  'pulley-turn',
] as const
export type PeriodCause = (typeof PERIOD_CAUSES)[number]

export interface PossibleCause {
  cause: PeriodCause
  /** mm along which it repeats. */
  period: number
  /** Times of its period that the bands are apart; half where a screw bends both ways. */
  times: number
  /** How far the spacing found is off, as a share of it. */
  off: number
  /** Off less than its own uncertainty and that of the spacing. */
  fits: boolean
}

/** What the bands were printed with, as far as causes need it. */
export interface BandsContext {
  machine: Machine
  /** mm */
  layerHeight: number
  /** Seconds a layer took, and mm of filament it was fed; null where no file says so. */
  layerSeconds: number | null
  layerFed: number | null
  /** mm round the drive's gear where the filament runs; null: not known. */
  gear: number | null
  /** s; null where the heater was not watched. */
  nozzlePeriod: number | null
  bedPeriod: number | null
}

/** How well the period of each cause is known, as a share: geometry to a hundredth, time of layers less. From memory. */
const KNOWN: Record<PeriodCause, number> = {
  'screw-lead': 0.01,
  'step-beat': 0.01,
  'drive-gear': 0.06,
  'nozzle-heater': 0.06,
  'bed-heater': 0.06,
  'belt-tooth': 0.01,
  'pulley-turn': 0.01,
}

/** Height over which a layer height and the screw's full step come together again, mm; null where each layer is on a step. */
export function stepBeat(layerHeight: number, machine: Pick<Machine, 'z'>): number | null {
  const step = fullStep(machine)
  const off = layerHeight / step - Math.round(layerHeight / step)
  return Math.abs(off) < 0.02 ? null : layerHeight / Math.abs(off)
}

/** mm of height in which something that repeats every `seconds` comes again, sampled once a layer. */
function aliased(perLayer: number, layerHeight: number): number | null {
  // turns a layer, less whole ones: what is left shows as a slow wave
  const turns = 1 / perLayer
  const left = Math.abs(turns - Math.round(turns))
  return left < 0.004 ? null : layerHeight / left
}

/**
 * Causes for bands at a spacing in height on this machine with this recipe, the nearest first.
 * @param spacing mm, and its standard uncertainty
 */
export function causesOfBands(spacing: { value: number; u: number }, c: BandsContext): PossibleCause[] {
  const periods: [PeriodCause, number | null][] = [
    ['screw-lead', c.machine.z.lead],
    ['step-beat', stepBeat(c.layerHeight, c.machine)],
    ['drive-gear', c.gear !== null && c.layerFed ? aliased(c.gear / c.layerFed, c.layerHeight) : null],
    [
      'nozzle-heater',
      c.nozzlePeriod !== null && c.layerSeconds
        ? aliased(c.nozzlePeriod / c.layerSeconds, c.layerHeight)
        : null,
    ],
    [
      'bed-heater',
      c.bedPeriod !== null && c.layerSeconds ? aliased(c.bedPeriod / c.layerSeconds, c.layerHeight) : null,
    ],
  ]
  return ranked(spacing, periods)
}

/**
 * Causes for ribs at a spacing along a wall: belt and pulley repeat along the way of an axis.
 * @param spacing mm along an axis
 */
export function causesOfRibs(spacing: { value: number; u: number }, machine: Machine): PossibleCause[] {
  return ranked(spacing, [
    ['belt-tooth', machine.belt.pitch],
    ['pulley-turn', machine.belt.pitch * machine.belt.teeth],
  ])
}

function ranked(
  spacing: { value: number; u: number },
  periods: readonly [PeriodCause, number | null][],
): PossibleCause[] {
  return periods
    .flatMap(([cause, period]) => {
      if (period === null || !(period > 0)) return []
      let best: PossibleCause | null = null
      for (const times of cause === 'screw-lead' ? [1, 0.5] : [1]) {
        const off = (spacing.value - period * times) / (period * times)
        const allowed = 2 * Math.hypot(spacing.u / (period * times), KNOWN[cause])
        const found = { cause, period, times, off, fits: Math.abs(off) <= allowed }
        if (!best || Math.abs(off) < Math.abs(best.off) - (times === 1 ? 0 : 0.05)) best = found
      }
      return best ? [best] : []
    })
    .sort((a, b) => Number(b.fits) - Number(a.fits) || Math.abs(a.off) - Math.abs(b.off))
}

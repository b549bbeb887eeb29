import { beadArea, speedAtMeltCap } from '../../extrusion/bead'
import { coolingTime, fanCoefficient } from '../../extrusion/cooling'
import { airOf, type Machine } from '../../machine/machine'
import type { MaterialCard } from '../../material/cards'
import type { Filament } from '../../material/filament'
import { cardFor } from '../../material/filling'
import type { Reason } from '../../quantity/reason'
import {
  roundTo,
  settingOf,
  type NumberKey,
  type SettingKey,
  type SettingValue,
  type ValueOf,
} from '../settings'
import { machineLimit } from './limits'
import { believedMeltCap, softness } from './meltCap'
import { because } from './reasons'
import {
  SOURCES,
  type Source,
  type Offer,
  isPinned,
  type Pins,
  type Inherited,
  type Grade,
  type Resolved,
} from './values'

export interface DeriveInput {
  machine: Machine
  filament: Filament
  pins?: Pins
  relative?: Inherited
  grade?: Grade
}

/** What each source says of one setting, in any order; null where a source has nothing to say. */
export type Rule<K extends SettingKey> = (d: Derivation) => (Offer<ValueOf<K>> | null)[]
/** Rules for the settings of one group. */
export type RulesOf<Group> = { [K in keyof Group & SettingKey]: Rule<K> }
export type Rules = { [K in SettingKey]: Rule<K> }

// ---- offers
export const offer = <V extends SettingValue>(source: Source, value: V, reason: Reason): Offer<V> => ({
  source,
  value,
  reason,
})
export const card = <V extends SettingValue>(value: V, reason: Reason) => offer('card', value, reason)
export const computed = <V extends SettingValue>(value: V, reason: Reason) => offer('computed', value, reason)
/** A rule of thumb that no source stands behind. */
export const practice = <V extends SettingValue>(value: V, reason: Reason) =>
  offer('card', value, because('practice', { reason }))
/** The same start for every pair, by common practice. */
export const always =
  <V extends SettingValue>(value: V, reason: Reason) =>
  () => [practice(value, reason)]
/** A percentage that starts at 100. */
export const hundred = (setting: SettingKey) => always(100, because('starts-at-hundred', { setting }))

/** Resolves settings on demand so that a rule can ask for the values it depends on. */
export class Derivation {
  readonly card: MaterialCard
  private readonly done = new Map<SettingKey, Resolved>()
  /** Settings being worked out, innermost last, with what each has asked for. */
  private readonly open = new Map<SettingKey, Set<SettingKey>>()

  constructor(
    private readonly rules: Rules,
    readonly machine: Machine,
    readonly filament: Filament,
    private readonly pins: Pins,
    readonly relative: Inherited,
    readonly grade: Grade,
  ) {
    this.card = cardFor(filament)
  }

  /** Value of another setting; the asking one then follows it. */
  number(key: NumberKey): number {
    const asking = [...this.open.values()].at(-1)
    asking?.add(key)
    return this.resolve(key).value as number
  }

  /** A choice that others follow. */
  choice(key: SettingKey): SettingValue {
    const asking = [...this.open.values()].at(-1)
    asking?.add(key)
    return this.resolve(key).value
  }

  /** What the relative brings for a setting. */
  inherited(key: NumberKey): number | undefined {
    return this.relative[key]?.value
  }

  /**
   * Works out a setting from everything that has a say in it.
   * @throws Error when settings depend on each other in a circle, or none has a say (a fault of the rules)
   */
  resolve(key: SettingKey): Resolved {
    const known = this.done.get(key)
    if (known) return known
    if (this.open.has(key)) throw new Error(`setting ${key} depends on itself`)
    const asked = new Set<SettingKey>()
    this.open.set(key, asked)
    const stack: Offer[] = this.rules[key](this).filter((o) => o !== null)
    const relative = this.relative[key]
    if (relative) stack.push(offer<SettingValue>('relative', relative.value, relative.reason))
    const pin = this.pins[key]
    if (pin) stack.push(offer<SettingValue>(pin.source, pin.value, pin.reason))
    stack.sort((a, b) => SOURCES.indexOf(a.source) - SOURCES.indexOf(b.source))
    const winner = stack.at(-1)
    if (!winner) throw new Error(`setting ${key} has no source`)
    const result = this.finish(key, winner, stack)
    if (pin?.plusMinus !== undefined && winner.source === 'measured') result.plusMinus = pin.plusMinus
    if (pin?.at !== undefined) result.at = pin.at
    if (asked.size && !pin) result.follows = [...asked]
    this.open.delete(key)
    this.done.set(key, result)
    return result
  }

  private finish(key: SettingKey, winner: Offer, stack: Offer[]): Resolved {
    const setting = settingOf(key)
    if (setting.kind !== 'number' || typeof winner.value !== 'number')
      return { value: winner.value, source: winner.source, reason: winner.reason, stack }
    const asked = winner.value
    const limit = machineLimit(key, this.machine)
    // A value someone set or measured is kept to the digit; derived ones are rounded to the step.
    const value = isPinned(winner.source)
      ? Number(Math.min(setting.max, Math.max(setting.min, asked)).toFixed(4))
      : roundTo(setting, asked)
    if (limit !== undefined && value > limit) {
      return {
        value: limit,
        source: winner.source,
        reason: because('held-at-limit', { reason: winner.reason, limit, setting: key }),
        clippedFrom: asked,
        stack,
      }
    }
    return { value, source: winner.source, reason: winner.reason, stack }
  }

  /** How soft the roll is against its card. */
  softness(perPoint: number): number {
    return softness(this.filament, perPoint)
  }

  /** Share of the melt cap that is used: a cap that nobody measured is not believed to the last. Common practice, no source. */
  headroom(): number {
    const { source } = this.resolve('meltCap')
    return source === 'measured' || source === 'mend' ? 1 : 0.9
  }

  /** Melt rate that speeds are held under, mm³/s. */
  meltRate(): number {
    const value = this.number('meltCap')
    const { source } = this.resolve('meltCap')
    return believedMeltCap(this.machine, this.filament, { value, source }) * this.headroom()
  }

  /** Speed held under the label's and the melt cap for a line of the given width and height. */
  capped(
    key: NumberKey,
    feature: NumberKey,
    wanted: number,
    width: number,
    reason: Reason,
    height = this.number('layerHeight'),
  ): Offer<number>[] {
    const flow = (this.number('flow') / 100) * (feature === 'flow' ? 1 : this.number(feature) / 100)
    const cap = this.meltRate()
    const most = Math.floor(speedAtMeltCap(width, height, cap, flow))
    const fastest = this.filament.label.speed?.max
    const offers = [card(wanted, reason)]
    let best = this.inherited(key) ?? wanted
    if (fastest !== undefined && fastest < best) {
      best = fastest
      offers.push(offer('label', fastest, because('label-speed', { speed: fastest })))
    }
    if (most < best)
      offers.push(
        computed(
          Math.max(3, most),
          because('melt-capped', {
            family: this.card.id,
            width,
            height,
            speed: best,
            rate: beadArea(width, height) * best * flow,
            cap,
          }),
        ),
      )
    return offers
  }
}

/**
 * Heat a plastic gives off on its way down, J/(kg·K): what crystallises gives off its heat of crystallising besides.
 * Any polymer-processing text for the method; the values are from memory.
 */
const heatCapacityFrom = (c: MaterialCard, nozzle: number): number =>
  c.heatCapacity + (nozzle > c.solidAt ? (c.crystallising * 1000) / (nozzle - c.solidAt) : 0)

/** Seconds an outer-wall bead needs to set before the next layer may lie on it. */
export function beadSettingTime(
  machine: Machine,
  c: MaterialCard,
  number: (key: 'nozzle' | 'outerWidth' | 'layerHeight' | 'fan' | 'chamber') => number,
): number {
  return coolingTime({
    nozzle: number('nozzle'),
    target: c.solidAt,
    air: Math.max(30, airOf(machine, number('chamber'))),
    width: number('outerWidth'),
    height: number('layerHeight'),
    density: c.density,
    heatCapacity: heatCapacityFrom(c, number('nozzle')),
    coefficient: fanCoefficient(number('fan') / 100, machine.fan.strength),
  })
}

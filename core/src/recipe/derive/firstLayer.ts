import { fullStep, fullStepsBetween, thickestLayer, type Machine } from '../../machine/machine'
import type { FIRST_LAYER } from '../settings/firstLayer'
import { always, practice, computed, type RulesOf } from './engine'
import { because } from './reasons'

/** The full step nearest to a wanted height; the height itself where no step fits, mm. */
function onFullStep(
  machine: Machine,
  { wanted, least, most }: { wanted: number; least: number; most: number },
): number {
  const steps = fullStepsBetween(least, most, machine)
  // of two as near, the thicker: it forgives more
  const nearest = (a: number, b: number) => (Math.abs(b - wanted) <= Math.abs(a - wanted) + 1e-9 ? b : a)
  return steps.length ? steps.reduce(nearest) : wanted
}

/** A first layer is never thinner than half the nozzle nor than the other layers, mm. Common practice, no source. */
export const thinnestFirst = (machine: Pick<Machine, 'nozzle'>, layer: number): number =>
  Math.max(layer, 0.5 * machine.nozzle.diameter)

export const FIRST_LAYER_RULES: RulesOf<typeof FIRST_LAYER> = {
  firstHeight: (d) => {
    const { residual, levelling } = d.machine.bed
    const { diameter } = d.machine.nozzle
    const layer = d.number('layerHeight')
    const least = thinnestFirst(d.machine, layer)
    const most = thickestLayer(d.machine)
    const [wanted, reason] =
      levelling === 'screws'
        ? [Math.max(least, 0.6 * diameter), because('thicker-on-screws')]
        : [least, layer < least - 1e-9 ? because('half-nozzle-first') : because('as-layers-on-probe')]
    const start = practice(Math.min(most, wanted), reason)
    if (d.inherited('firstHeight') !== undefined) return [start]
    // what is left of the bed's unevenness is covered twice, as far as a first layer may be thick
    const covers = residual === null ? least : Math.min(most, Math.max(least, 2 * residual))
    const held = residual === null ? start.value : covers
    const step = fullStep(d.machine)
    const height = onFullStep(d.machine, {
      wanted: held,
      least: Math.min(covers, Math.max(least, most - step)),
      most,
    })
    const why = residual === null ? reason : because('twice-residual', { residual })
    return [
      start,
      computed(
        height,
        Math.abs(height - held) < 1e-9 ? why : because('first-on-full-step', { reason: why, step }),
      ),
    ]
  },
  firstWidth: (d) => [practice(d.machine.nozzle.diameter * 1.2, because('first-line-grips'))],
  firstSpeed: (d) => {
    const outer = d.number('outerSpeed')
    const value = d.card.flexible ? Math.max(5, outer / 2) : Math.min(30, Math.max(20, outer / 2))
    return d.capped(
      'firstSpeed',
      'flowFirst',
      Math.min(value, outer),
      d.number('firstWidth'),
      because('practice', { reason: because('half-outer-first') }),
      d.number('firstHeight'),
    )
  },
  zOffset: always(0, because('z-found-on-machine')),
  slowZoneHeight: always(0, because('many-islands-only')),
  slowZoneSpeed: (d) => [practice(Math.min(20, d.number('firstSpeed')), because('no-faster-than-first'))],
}

import { thickestLayer } from '../../machine/machine'
import type { FIRST_LAYER } from '../settings/firstLayer'
import { always, computed, practice, type RulesOf } from './engine'
import { because } from './reasons'

export const FIRST_LAYER_RULES: RulesOf<typeof FIRST_LAYER> = {
  firstHeight: (d) => {
    const { residual, levelling } = d.machine.bed
    const layer = d.number('layerHeight')
    const most = thickestLayer(d.machine)
    const start =
      levelling === 'screws'
        ? practice(
            Math.min(most, Math.max(layer, 0.24 * (d.machine.nozzle.diameter / 0.4))),
            because('thicker-on-screws'),
          )
        : practice(Math.min(most, layer), because('as-layers-on-probe'))
    if (residual === null || d.inherited('firstHeight') !== undefined) return [start]
    return [
      start,
      computed(Math.min(most, Math.max(layer, 2 * residual)), because('twice-residual', { residual })),
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

import { policyFor } from '../policies'
import type { COOLING } from '../settings/cooling'
import { always, beadSettingTime, card, computed, practice, type RulesOf } from './engine'
import { because } from './reasons'

/**
 * How much longer than a bead alone needs: the wall under it is warm as well, and how hard a fan blows is known to a third at
 * best. Too long costs an even finish on small layers only, too short melts them. Common practice, no source.
 */
const LAYER_TIME_MARGIN = 1.3

const noFan = () => computed(0, because('no-part-fan'))

export const COOLING_RULES: RulesOf<typeof COOLING> = {
  fanOffLayers: ({ card: c }) => [card(c.fan.offLayers, because('fan-off-base', { family: c.id }))],
  fanRampLayers: always(1, because('fan-at-once')),
  fan: ({ card: c, machine: m, filament: f }) => {
    if (!m.fan.present) return [noFan()]
    const policy = policyFor('soft-fan', m, f) ?? policyFor('gloss-fan', m, f)
    const duty = policy ? policy.value(c.fan.rest) : c.fan.rest
    return [card(duty, because('fan-of-card', { family: c.id, duty, because: policy?.because ?? null }))]
  },
  fanOverhang: (d) => {
    if (!d.machine.fan.present) return [noFan()]
    const duty = Math.max(d.card.fan.overhang, d.number('fan'))
    return [card(duty, because('fan-overhang', { family: d.card.id, duty }))]
  },
  fanBridge: (d) => {
    if (!d.machine.fan.present) return [noFan()]
    const duty = d.number('fanOverhang')
    return [card(duty, because('fan-bridge', { duty }))]
  },
  minLayerTime: (d) => {
    const seconds = beadSettingTime(d.machine, d.card, (key) => d.number(key))
    const held = Math.min(20, Math.max(4, LAYER_TIME_MARGIN * seconds))
    return [
      practice(5, because('five-seconds')),
      d.inherited('minLayerTime') !== undefined
        ? null
        : computed(
            held,
            because('bead-sets', {
              nozzle: d.number('nozzle'),
              solidAt: d.card.solidAt,
              seconds,
              fan: d.number('fan'),
              crystallising: d.card.crystallising > 0,
              margin: LAYER_TIME_MARGIN,
              held: held !== LAYER_TIME_MARGIN * seconds,
            }),
          ),
    ]
  },
  speedFloor: (d) => [
    // never above a speed it floors
    practice(
      Math.max(
        2,
        Math.floor(
          Math.min(
            15,
            d.number('outerSpeed') * 0.6,
            d.number('smallLoopSpeed'),
            d.number('bridgeSpeed'),
            d.number('topSpeed'),
          ),
        ),
      ),
      because('floor-keeps-change-small'),
    ),
  ],
}

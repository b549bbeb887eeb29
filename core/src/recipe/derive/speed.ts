import { squareCornerDeviation, squareCornerSpeed } from '../../machine/cornerRule'
import type { SPEED } from '../settings/speed'
import { always, card, computed, practice, type Derivation, type RulesOf } from './engine'
import { because } from './reasons'

/** How much faster than the card a machine goes when it may: by how stiff and strong it is. Common practice, no source. */
function briskness({ machine: m, card: c, filament: f }: Derivation): number {
  if (c.flexible || f.finish === 'silk' || c.speed.top !== undefined) return 1
  if (m.frame === 'enclosed' && m.limits.acceleration >= 3000) return 2.5
  return m.limits.acceleration >= 1500 ? 1.6 : 1.25
}

/** A card's speed at the pace that was chosen, for a roll as hard as this one. */
function paced(d: Derivation, ofCard: number, code: 'good-face' | 'where-nobody-looks') {
  const soft = d.softness(0.03)
  const times = d.choice('pace') === 'brisk' ? briskness(d) : 1
  const speed = Math.max(3, Math.round(ofCard * soft * times))
  if (times > 1) return { speed, reason: because('brisk', { family: d.card.id, speed, times }) }
  if (soft !== 1)
    return {
      speed,
      reason: because('softer-goes-slower', { shore: d.filament.shore!, cardShore: d.card.shore!, speed }),
    }
  return { speed, reason: because(code, { family: d.card.id, speed }) }
}

export const SPEED_RULES: RulesOf<typeof SPEED> = {
  pace: always('careful', because('careful-first')),
  outerSpeed: (d) => {
    const { speed, reason } = paced(d, d.card.speed.outer, 'good-face')
    return d.capped('outerSpeed', 'flowOuter', speed, d.number('outerWidth'), reason)
  },
  innerSpeed: (d) => {
    const { speed, reason } = paced(d, d.card.speed.inner, 'where-nobody-looks')
    return d.capped('innerSpeed', 'flowInner', speed, d.number('innerWidth'), reason)
  },
  solidSpeed: (d) =>
    d.capped(
      'solidSpeed',
      'flowSolid',
      Math.min(d.number('innerSpeed'), d.number('outerSpeed')),
      d.number('solidWidth'),
      because('no-faster-than-face'),
    ),
  topSpeed: (d) =>
    d.capped(
      'topSpeed',
      'flowSolid',
      Math.round(Math.min(d.number('outerSpeed'), d.card.speed.top ?? d.card.speed.outer * 0.75)),
      d.number('topWidth'),
      because('last-layer-seen'),
    ),
  sparseSpeed: (d) =>
    d.capped(
      'sparseSpeed',
      'flowSparse',
      d.card.flexible ? d.number('innerSpeed') : Math.round(d.number('innerSpeed') * 1.33),
      d.number('fillWidth'),
      d.card.flexible
        ? because('one-speed-for-soft')
        : because('practice', { reason: because('third-faster') }),
    ),
  bridgeSpeed: (d) => {
    const { bridge } = d.card.speed
    return [
      bridge === undefined
        ? practice(d.number('outerSpeed') / 2, because('half-outer-or-slower'))
        : card(
            Math.min(bridge, d.number('outerSpeed')),
            because('bridge-of-card', { family: d.card.id, speed: bridge }),
          ),
    ]
  },
  overhangSpeed: (d) => [practice(0.75 * d.number('outerSpeed'), because('curls-less-slow'))],
  steepSpeed: (d) => [
    practice(Math.min(d.number('bridgeSpeed'), 0.5 * d.number('outerSpeed')), because('nearly-a-bridge')),
  ],
  smallLoopSpeed: (d) => [practice(d.number('outerSpeed') / 2, because('half-outer'))],
  smallLoopLength: (d) => [practice(Math.PI * 20 * d.machine.nozzle.diameter, because('twenty-nozzles'))],
  travelSpeed: (d) => [practice(d.machine.frame === 'open' ? 150 : 200, because('no-time-for-ooze'))],
  outerAcceleration: (d) => [
    d.machine.frame === 'open'
      ? practice(800, because('open-frame-rings'))
      : practice(2000, because('stiff-frame-bears')),
  ],
  innerAcceleration: (d) => [practice(d.machine.frame === 'open' ? 1000 : 2500, because('ripples-hidden'))],
  travelAcceleration: (d) => [practice(d.machine.frame === 'open' ? 1200 : 3000, because('brisk-travels'))],
  firstAcceleration: (d) => [
    practice(Math.min(d.number('outerAcceleration'), 500), because('gentle-first-layer')),
  ],
  cornerChange: ({ machine: m }) => {
    const { corner, acceleration } = m.limits
    return [
      corner.kind === 'instant-change'
        ? computed(corner.limit, because('machine-set-to'))
        : computed(squareCornerSpeed(corner.deviation, acceleration), because('square-corner-speed')),
    ]
  },
  junctionDeviation: ({ machine: m }) => {
    const { corner, acceleration } = m.limits
    return [
      corner.kind === 'junction-deviation'
        ? computed(corner.deviation, because('machine-set-to'))
        : computed(squareCornerDeviation(corner.limit, acceleration), because('square-corner-deviation')),
    ]
  },
}

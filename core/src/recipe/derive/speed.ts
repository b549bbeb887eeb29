import { squareCornerDeviation, squareCornerSpeed } from '../../machine/cornerRule'
import type { Machine } from '../../machine/machine'
import { fillingOf } from '../../material/filling'
import type { Reason } from '../../quantity/reason'
import type { SPEED } from '../settings/speed'
import { always, card, computed, practice, type Derivation, type RulesOf } from './engine'
import { because } from './reasons'

/** How much faster than the card a machine goes when it may: by how stiff and strong it is. Common practice, no source. */
function briskness({ machine: m, card: c, filament: f }: Derivation): number {
  if (c.flexible || f.finish === 'silk' || c.speed.top !== undefined) return 1
  if (m.frame === 'enclosed' && m.limits.acceleration >= 3000) return 2.5
  return m.limits.acceleration >= 1500 ? 1.6 : 1.25
}

/**
 * How many times the card's speeds a machine prints as well: corners ring with the acceleration that it was built for, and a
 * fast machine reaches its speed within a short line. Cards are written for 4,000 mm/s² and 250 mm/s. Common practice, no source.
 */
function swiftness({ machine: { limits }, card: c, filament: f }: Derivation): number {
  if (c.flexible || f.finish === 'silk' || c.speed.top !== undefined) return 1
  return Math.min(2.5, Math.max(1, Math.min(Math.sqrt(limits.acceleration / 4000), limits.speed / 250)))
}

/**
 * Acceleration as a share of what the machine is set to bear, within bounds of its frame; common practice, no source.
 * @param bounds lowest and highest for an open and an enclosed frame, mm/s²
 */
function accelerated(
  { machine: m }: Derivation,
  limit: 'acceleration' | 'travelAcceleration',
  bounds: Record<Machine['frame'], { share: number; least: number; most: number }>,
  slow: { [K in Machine['frame']]: Reason },
) {
  const { share, least, most } = bounds[m.frame]
  const wanted = Math.min(most, share * m.limits[limit])
  return wanted > least
    ? practice(
        Math.round(wanted / 100) * 100,
        because('share-of-acceleration', { share: 100 * (wanted / m.limits[limit]), frame: m.frame }),
      )
    : practice(least, slow[m.frame])
}

/** A card's speed at the pace that was chosen, for a roll as hard as this one. */
function paced(d: Derivation, ofCard: number, code: 'good-face' | 'where-nobody-looks') {
  const soft = d.softness(0.03)
  const swift = swiftness(d)
  const brisk = d.choice('pace') === 'brisk'
  const times = swift * (brisk ? briskness(d) : 1)
  const speed = Math.max(3, Math.round(ofCard * soft * times))
  if (brisk && times > 1) return { speed, reason: because('brisk', { family: d.card.id, speed, times }) }
  if (times > 1) return { speed, reason: because('fast-machine', { family: d.card.id, speed, times }) }
  if (soft !== 1)
    return {
      speed,
      reason: because('softer-goes-slower', { shore: d.filament.shore!, cardShore: d.card.shore!, speed }),
    }
  if ((fillingOf(d.filament)?.speed ?? 1) < 1)
    return {
      speed,
      reason: because('filling-slower', { family: d.card.id, finish: d.filament.finish, speed }),
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
      d.card.flexible
        ? d.number('innerSpeed')
        : Math.min(Math.round(d.number('innerSpeed') * 1.33), 2 * d.number('outerSpeed')),
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
  travelSpeed: ({ machine: m }) => [
    practice(
      m.frame === 'open'
        ? Math.min(250, Math.max(150, 0.6 * m.limits.speed))
        : Math.min(400, Math.max(200, 0.6 * m.limits.speed)),
      because('no-time-for-ooze'),
    ),
  ],
  outerAcceleration: (d) => [
    accelerated(
      d,
      'acceleration',
      { open: { share: 0.2, least: 800, most: 3000 }, enclosed: { share: 0.25, least: 2000, most: 5000 } },
      { open: because('open-frame-rings'), enclosed: because('stiff-frame-bears') },
    ),
  ],
  innerAcceleration: (d) => [
    accelerated(
      d,
      'acceleration',
      { open: { share: 0.25, least: 1000, most: 4000 }, enclosed: { share: 0.4, least: 2500, most: 10_000 } },
      { open: because('ripples-hidden'), enclosed: because('ripples-hidden') },
    ),
  ],
  travelAcceleration: (d) => [
    accelerated(
      d,
      'travelAcceleration',
      { open: { share: 0.3, least: 1200, most: 5000 }, enclosed: { share: 0.5, least: 3000, most: 10_000 } },
      { open: because('brisk-travels'), enclosed: because('brisk-travels') },
    ),
  ],
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

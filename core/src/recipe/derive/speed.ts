import { squareCornerDeviation, squareCornerSpeed } from '../../machine/cornerRule'
import type { SPEED } from '../settings/speed'
import { card, computed, practice, type RulesOf } from './engine'
import { because } from './reasons'

export const SPEED_RULES: RulesOf<typeof SPEED> = {
  outerSpeed: (d) => {
    const { outer } = d.card.speed
    return d.capped(
      'outerSpeed',
      'flowOuter',
      outer,
      d.number('outerWidth'),
      because('good-face', { family: d.card.id, speed: outer }),
    )
  },
  innerSpeed: (d) => {
    const { inner } = d.card.speed
    return d.capped(
      'innerSpeed',
      'flowInner',
      inner,
      d.number('innerWidth'),
      because('where-nobody-looks', { family: d.card.id, speed: inner }),
    )
  },
  solidSpeed: (d) =>
    d.capped(
      'solidSpeed',
      'flowSolid',
      Math.min(d.number('innerSpeed'), d.card.speed.outer),
      d.number('fillWidth'),
      because('no-faster-than-face'),
    ),
  topSpeed: (d) =>
    d.capped(
      'topSpeed',
      'flowSolid',
      d.card.speed.top ?? Math.round(d.card.speed.outer * 0.75),
      d.number('fillWidth'),
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

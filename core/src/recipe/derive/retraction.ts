import { tubeRetraction } from '../../machine/machine'
import { cardOf, type MaterialCard } from '../../material/cards'
import type { Filament } from '../../material/filament'
import { fillingOf } from '../../material/filling'
import { policyFor } from '../policies'
import type { RETRACTION } from '../settings/retraction'
import { always, card, computed, practice, type Derivation, type RulesOf } from './engine'
import { because } from './reasons'

/** What a tube of this length usually needs for a plastic, mm: the rule of thumb, leaned by what the card says of 400 mm. */
export const usualTubeRetraction = (tubeLength: number, ofCard: number): number =>
  tubeRetraction(tubeLength) * (ofCard / tubeRetraction(400))

/** What a filling that clogs makes of the card's length. */
const pulledLess = ({ filament: f }: Derivation, length: number) =>
  (fillingOf(f)?.retraction ?? 1) < 1
    ? card(length, because('filling-pulled-less', { finish: f.finish, length }))
    : null

/** Retraction for a roll softer or harder than its card: in proportion to hardness. Common practice, no source. */
function softened(start: number, c: MaterialCard, f: Filament): number {
  if (c.shore === null || f.shore === null || f.shore === c.shore) return start
  return Math.max(0.1, Math.min(1.5 * start, start * (1 + (f.shore - c.shore) / 20)))
}

function directLength(d: Derivation) {
  const { card: c, filament: f } = d
  const { direct } = c.retraction
  const start = softened(direct, c, f)
  return [
    card(
      cardOf(f.family).retraction.direct,
      because('direct-start', { family: c.id, length: cardOf(f.family).retraction.direct }),
    ),
    pulledLess(d, direct),
    start !== direct && c.shore !== null && f.shore !== null
      ? computed(start, because('softer-pulled-less', { shore: f.shore, cardShore: c.shore }))
      : null,
  ]
}

/** Longest pull-back a filament stands in a tube, mm: beyond it the gear chews it and the cold side clogs. Common practice, no source. */
const MOST_IN_TUBE = 8

function tubeLength(d: Derivation) {
  const { card: c, machine: m } = d
  const { tube } = c.retraction
  if (tube === null) return [practice(2, because('soft-on-tube-most'))]
  // leaned by what the card says against the usual for its 400 mm of tube
  const rule = usualTubeRetraction(m.drive.tubeLength, tube)
  const start = Math.min(MOST_IN_TUBE, rule)
  return [
    card(tube, because('tube-of-card', { family: c.id, length: tube })),
    pulledLess(d, tube),
    // a length tested on this drive says more than the rule of thumb
    d.inherited('retractLength') === undefined
      ? computed(
          start,
          because(rule > start ? 'tube-capped' : 'tube-rule', {
            family: c.id,
            tubeLength: m.drive.tubeLength,
          }),
        )
      : null,
  ]
}

export const RETRACTION_RULES: RulesOf<typeof RETRACTION> = {
  retract: ({ card: c, machine: m, filament: f }) => {
    const policy = policyFor('soft-retraction', m, f)
    return [
      policy
        ? card(policy.side === 1, policy.because)
        : card(true, because('wants-retraction', { family: c.id, drive: m.drive.kind })),
    ]
  },
  retractLength: (d) => (d.machine.drive.kind === 'direct' ? directLength(d) : tubeLength(d)),
  retractSpeed: ({ card: c, machine: m }) => [
    c.flexible
      ? practice(20, because('soft-pulled-slowly'))
      : m.drive.kind === 'tube'
        ? practice(40, because('tube-pull-speed'))
        : practice(35, because('short-pull-speed')),
  ],
  restartExtra: always(0, because('no-restart-extra')),
  zLift: always(0, because('no-lift')),
  minTravel: (d) => [practice(Math.max(1, d.machine.nozzle.diameter * 4), because('short-hops'))],
  wipe: (d) => [practice(d.machine.nozzle.diameter, because('wipe-one-nozzle'))],
  earlyStop: always(0, because('early-stop-off')),
  pressureCompensation: always(0, because('pressure-off')),
}

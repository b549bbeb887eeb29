import { beadArea } from '../../extrusion/bead'
import { cardOf, type Range } from '../../material/cards'
import type { Machine } from '../../machine/machine'
import type { Filament } from '../../material/filament'
import { fillingOf } from '../../material/filling'
import { policyFor } from '../policies'
import type { TEMPERATURE } from '../settings/temperature'
import { card, computed, offer, type Derivation, type Rule, type RulesOf } from './engine'
import { because } from './reasons'

/** Share of the melt cap up to which the plastic's usual temperature will do. Common practice, no source. */
export const EASY = 0.7

/** Whether a label spans far more than the plastic needs at usual speeds: its upper end is for fast printing. Common practice, no source. */
const isWide = (label: Range, usual: Range): boolean =>
  label.max - label.min > 1.4 * (usual.max - usual.min) || label.max > usual.max + 20

/** What the fastest of the usual lines melts, as a share of the melt cap. */
function meltDemand(d: Derivation): number {
  const area = beadArea(d.number('innerWidth'), d.number('layerHeight'))
  return (area * d.number('sparseSpeed')) / d.meltRate()
}

const nozzle: Rule<'nozzle'> = (d) => {
  const { card: c, filament: f } = d
  const label = f.label.nozzle
  const share = (c.nozzle.start - c.nozzle.min) / (c.nozzle.max - c.nozzle.min)
  const tested = d.inherited('nozzle')
  const plain = cardOf(f.family).nozzle
  const filling = fillingOf(f)
  const ofCard = [
    card(
      plain.start,
      because('nozzle-of-card', { family: c.id, start: plain.start, min: plain.min, max: plain.max }),
    ),
    filling &&
      card(
        c.nozzle.start,
        because('filling-heat', {
          family: c.id,
          finish: f.finish,
          start: c.nozzle.start,
          hotter: filling.hotter,
        }),
      ),
  ]
  if (!label) return ofCard
  const inLabel = (heat: number) => Math.min(label.max, Math.max(label.min, heat))
  if (tested === undefined && isWide(label, c.nozzle)) {
    const start = inLabel(c.nozzle.start)
    const demand = meltDemand(d)
    const heat = start + (label.max - start) * Math.min(1, Math.max(0, (demand - EASY) / (1 - EASY)))
    return [...ofCard, offer('label', heat, because('wide-label', { family: c.id, start, demand, ...label }))]
  }
  if (tested === undefined)
    return [
      ...ofCard,
      offer(
        'label',
        label.min + share * (label.max - label.min),
        because('share-of-label', { share: share * 100, ...label }),
      ),
    ]
  const held = inLabel(tested)
  return [
    ...ofCard,
    offer(
      'label',
      held,
      because(held === tested ? 'relative-within-label' : 'nearest-to-relative', { tested, ...label }),
    ),
  ]
}

const bedPolicy = (machine: Machine, filament: Filament) =>
  policyFor('abs-bed', machine, filament) ?? policyFor('soft-bed', machine, filament)

/** What a plastic's card, or the practice for its kind on this bed, says of the bed's temperature, °C. */
export function wantedBed(layer: 'first' | 'rest', machine: Machine, filament: Filament): number {
  const { bed: ofCard } = cardOf(filament.family)
  const policy = bedPolicy(machine, filament)
  // what a policy says is meant for the first layer and, where it names a heat of its own, for the rest as well
  return policy ? policy.value(ofCard[layer]) : ofCard[layer]
}

const bed =
  (layer: 'first' | 'rest'): Rule<'bed' | 'bedFirst'> =>
  (d) => {
    const { card: c, filament: f, machine: m } = d
    const label = f.label.bed
    const policy = bedPolicy(m, f)
    const wanted = wantedBed(layer, m, f)
    const base = d.inherited(layer === 'first' ? 'bedFirst' : 'bed') ?? wanted
    const inside = label ? Math.min(label.max, Math.max(label.min, base)) : base
    return [
      card(
        wanted,
        because('bed-of-card', { family: c.id, value: wanted, layer, because: policy?.because ?? null }),
      ),
      label &&
        offer(
          'label',
          inside,
          because(inside === base ? 'within-label' : 'nearest-within-label', { value: base, ...label }),
        ),
    ]
  }

export const TEMPERATURE_RULES: RulesOf<typeof TEMPERATURE> = {
  nozzleFirst: (d) => [computed(d.number('nozzle'), because('same-as-rest'))],
  nozzle,
  bedFirst: bed('first'),
  bed: bed('rest'),
  chamber: ({ card: c, machine: m }) => [
    m.chamber === null
      ? computed(0, because('no-chamber'))
      : card(
          c.wantsEnclosure ? Math.min(60, m.chamber) : 0,
          because(c.wantsEnclosure ? 'splits-in-cold' : 'needs-no-chamber', { family: c.id }),
        ),
  ],
}

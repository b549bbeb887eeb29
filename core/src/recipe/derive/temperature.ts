import { policyFor } from '../policies'
import type { TEMPERATURE } from '../settings/temperature'
import { card, computed, offer, type Rule, type RulesOf } from './engine'
import { because } from './reasons'

const nozzle: Rule<'nozzle'> = (d) => {
  const { card: c, filament: f } = d
  const label = f.label.nozzle
  const share = (c.nozzle.start - c.nozzle.min) / (c.nozzle.max - c.nozzle.min)
  const tested = d.inherited('nozzle')
  const ofCard = card(
    c.nozzle.start,
    because('nozzle-of-card', { family: c.id, start: c.nozzle.start, min: c.nozzle.min, max: c.nozzle.max }),
  )
  if (!label) return [ofCard]
  if (tested === undefined)
    return [
      ofCard,
      offer(
        'label',
        label.min + share * (label.max - label.min),
        because('share-of-label', { share: share * 100, ...label }),
      ),
    ]
  const held = Math.min(label.max, Math.max(label.min, tested))
  return [
    ofCard,
    offer(
      'label',
      held,
      because(held === tested ? 'relative-within-label' : 'nearest-to-relative', { tested, ...label }),
    ),
  ]
}

const bed =
  (layer: 'first' | 'rest'): Rule<'bed' | 'bedFirst'> =>
  (d) => {
    const { card: c, filament: f, machine: m } = d
    const label = f.label.bed
    const policy = policyFor('abs-bed', m, f) ?? policyFor('soft-bed', m, f)
    // what a policy says is meant for the first layer and, where it names a heat of its own, for the rest as well
    const wanted = policy ? policy.value(layer === 'first' ? c.bed.first : c.bed.rest) : c.bed[layer]
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

import { meltCap } from '../../machine/machine'
import { diameterFacts } from '../../material/filament'
import type { FILAMENT } from '../settings/filament'
import { always, card, computed, hundred, offer, type RulesOf } from './engine'
import { MELT_PER_POINT, usualMeltCap } from './meltCap'
import { because } from './reasons'

export const FILAMENT_RULES: RulesOf<typeof FILAMENT> = {
  diameter: ({ filament: f }) => {
    const facts = diameterFacts(f)
    return [
      offer('label', f.diameter, because('nominal-diameter', { diameter: f.diameter })),
      facts &&
        offer(
          'measured',
          facts.mean,
          because('measured-diameter', { count: facts.count, spread: facts.spread, ovality: facts.ovality }),
        ),
    ]
  },
  density: ({ card: c }) => [card(c.density, because('density-of-card', { family: c.id }))],
  meltCap: (d) => {
    const { card: c, machine: m, filament: f } = d
    const hardened = m.nozzle.material === 'hardened'
    const highFlow = m.meltZone === 'high-flow'
    const soft = d.softness(MELT_PER_POINT)
    if (soft !== 1)
      return [
        card(c.meltRate, because('melt-of-card', { family: c.id })),
        computed(usualMeltCap(m, f), because('softer-melts-less', { shore: f.shore!, cardShore: c.shore! })),
      ]
    return [
      card(c.meltRate, because('melt-of-card', { family: c.id })),
      m.nozzle.diameter !== 0.4 || hardened || highFlow
        ? computed(
            meltCap(c.meltRate, m),
            because('melt-scaled', { diameter: m.nozzle.diameter, hardened, highFlow }),
          )
        : null,
    ]
  },
  flow: hundred('flow'),
  flowFirst: hundred('flowFirst'),
  flowOuter: hundred('flowOuter'),
  flowInner: hundred('flowInner'),
  flowSolid: hundred('flowSolid'),
  flowSparse: hundred('flowSparse'),
  flowBridge: hundred('flowBridge'),
  flowOverRaft: always(90, because('lets-raft-go')),
}

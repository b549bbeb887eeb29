import { policyFor } from '../policies'
import type { GRIP } from '../settings/grip'
import { always, practice, type RulesOf } from './engine'
import { because } from './reasons'

export const GRIP_RULES: RulesOf<typeof GRIP> = {
  skirtLoops: always(2, because('two-loops')),
  brimLines: ({ card: c, machine: m }) => [
    c.flexible
      ? practice(0, because('brim-welds'))
      : c.wantsEnclosure && m.frame === 'open'
        ? practice(12, because('brim-on-open', { family: c.id }))
        : practice(0, because('no-brim')),
  ],
  brimWidth: (d) => [practice(d.number('firstWidth'), because('as-first-lines'))],
  brimGap: always(0, because('joined-brim')),
  cornerTabs: always(0, because('no-tabs')),
  raft: ({ machine: m, filament: f }) => {
    const policy = policyFor('raft', m, f)
    return policy ? [practice(policy.side === 1, policy.because)] : []
  },
  raftBottomLayers: always(1, because('one-thick-layer')),
  raftTopLayers: always(2, because('two-top-layers')),
  raftMargin: always(5, because('raft-margin')),
  raftGap: (d) => [practice(d.number('layerHeight') * 0.75, because('three-quarter-gap'))],
  raftBottomWidth: (d) => [practice(d.machine.nozzle.diameter * 3, because('raft-lines-wide'))],
  raftBottomSpeed: (d) =>
    d.capped(
      'raftBottomSpeed',
      'flow',
      Math.min(8, d.number('firstSpeed')),
      d.number('raftBottomWidth'),
      because('practice', { reason: because('raft-lines-slow') }),
      d.number('firstHeight'),
    ),
  raftDensity: always(60, because('raft-density')),
  raftTopWidth: (d) => [practice(d.number('fillWidth'), because('as-other-lines'))],
  raftTopSpeed: (d) => [
    practice(Math.min(d.number('firstSpeed'), d.number('solidSpeed')), because('as-slow-as-first')),
  ],
  raftTopDensity: always(100, because('raft-closed')),
  raftCrossing: always(90, because('raft-crossed')),
  supports: ({ card: c }) => [
    practice('none', c.flexible ? because('supports-weld') : because('supports-if-it-hangs')),
  ],
  supportAngle: always(60, because('past-sixty')),
  supportDensity: always(15, because('comes-off-in-sheets')),
  supportGap: (d) => [practice(d.number('layerHeight'), because('one-layer-of-air'))],
  draughtWall: ({ card: c, machine: m }) => [
    c.wantsEnclosure && m.frame === 'open'
      ? practice(1, because('splits-in-moving-air', { family: c.id }))
      : practice(0, because('not-needed-here')),
  ],
}

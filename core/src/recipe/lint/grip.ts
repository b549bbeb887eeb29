import { found, type LintRules } from './rule'

export const GRIP_LINT = {
  'brim-on-soft': {
    severity: 'fault',
    find: ({ card, n }) =>
      card.flexible && n('brimLines') > 0
        ? found('brim-on-soft', { lines: n('brimLines'), family: card.id }, ['brimLines'], {
            mend: { brimLines: 0 },
          })
        : null,
  },
  'raft-on-soft': {
    severity: 'fault',
    find: ({ card, values }) =>
      card.flexible && values.raft.value
        ? found('raft-on-soft', { family: card.id }, ['raft'], { mend: { raft: false } })
        : null,
  },
  'nothing-primes': {
    severity: 'note',
    find: ({ n, values }) =>
      n('skirtLoops') === 0 && n('brimLines') === 0 && !values.raft.value
        ? found('nothing-primes', {}, ['skirtLoops'], { mend: { skirtLoops: 2 } })
        : null,
  },
  'open-and-draughty': {
    severity: 'note',
    find: ({ card, machine, n }) =>
      card.wantsEnclosure && machine.frame === 'open' && n('draughtWall') === 0
        ? found('open-and-draughty', { family: card.id }, ['draughtWall'], {
            mend: { draughtWall: 1 },
            remedy: 'cover-frame',
          })
        : null,
  },
} satisfies LintRules

import { emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason, stepReason } from '../../reasons'
import { gradedPoints } from '../../shared/graded'
import { stepsOf, type PieceDefinition } from '../piece'
import { stringPosts } from './build'

/** Grade from which on strings need no cure. */
const CLEAN = 3

const stringPostsOutcome: OutcomeRule = (trials) => {
  const t = trials[trials.length - 1]
  const grade = t.readings.gap?.grades.strings
  if (grade === undefined) return emptyOutcome('few', [outcomeReason('grade-posts')], 'span')
  return {
    ...emptyOutcome(
      'found',
      [
        outcomeReason('strings-are', { grade }),
        outcomeReason(grade >= CLEAN ? 'clean-enough' : 'towers-tell'),
      ],
      'span',
    ),
    points: gradedPoints([t], 'span', ['strings']),
  }
}

export const STRING_POSTS: PieceDefinition = {
  name: 'String posts',
  what: 'Two posts with a gap: the quickest look at strings, with the recipe as it is.',
  place: 'gap',
  places: 'gaps',
  keys: ['span'],
  across: [],
  counts: { min: 1, max: 1, usual: 1 },
  criteria: ['strings'],
  settles: [],
  above: [],
  below: [],
  propose: () => ({ steps: stepsOf('span', 40, 40, 1), reason: stepReason('recipe-as-it-is') }),
  build: stringPosts,
  outcome: stringPostsOutcome,
}

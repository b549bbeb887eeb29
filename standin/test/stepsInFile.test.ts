import { writePart } from '@verimend/core/planner'
import { printSettingsOf } from '@verimend/core/recipe'
import { makeOnFile, outcomeAmong, PIECES, type PieceId, type Steps } from '@verimend/core/trials'
import { printed, readingsOf } from '../proof/sitting'
import { settled } from '../proof/settled'
import { STEADY_PERSON } from '../src'

// A finished file of two posts is stepped up its height and printed on a simulated machine, which knows nothing but the file;
// what is seen of its bands answers the trial.
const { pair, world } = settled('tube', 'pla', 7)
const file = new TextEncoder().encode(
  writePart(pair.machine, printSettingsOf(pair.recipe), {
    shape: 'box',
    width: 12,
    height: 26,
    copies: 2,
    apart: 30,
  }),
)
const read = (piece: PieceId, steps: Steps) => {
  const plan = { piece, steps, onFile: { name: 'posts.gcode', sha256: '', from: 2, to: 26 } }
  const made = makeOnFile(file, pair, plan)
  const part = printed(made.gcode, pair.machine, world)
  const readings = readingsOf(
    part,
    world,
    made.cells,
    [...PIECES[piece].criteria, 'strings'],
    STEADY_PERSON,
    1,
  )
  const strings = made.cells.map((c) => readings[c.id]?.grades.strings)
  const trial = { number: 1, plan, cells: made.cells, readings, resolution: 0.01 }
  return { strings, outcome: outcomeAmong(trial, [trial], pair) }
}

test('pull-backs in steps: too short strings, and the answer is none of the lengths that did', () => {
  const { strings, outcome } = read('retraction-tower', { key: 'retractLength', from: 0.5, to: 6, count: 6 })
  expect(strings.every((grade) => grade !== undefined)).toBe(true)
  expect(strings[0]!).toBeLessThan(strings.at(-1)! - 1)
  expect(outcome.kind).toBe('found')
  const enough = strings.findIndex((grade) => grade! >= strings.at(-1)! - 1)
  expect(outcome.best!).toBeGreaterThan(0.5 + 1.1 * (enough - 1))
})
test('heat in steps: what is too hot for the roll is seen to be', () => {
  const { strings, outcome } = read('temperature-tower', { key: 'nozzle', from: 245, to: 190, count: 6 })
  expect(strings.every((grade) => grade !== undefined)).toBe(true)
  expect(strings[0]!).toBeLessThan(strings[3]!)
  expect(outcome.kind).toBe('found')
  expect(outcome.best!).toBeLessThan(235)
})
test('nothing is made of steps of what has no part in it: outer walls at other speeds string alike', () => {
  const { strings } = read('speed-fins', { key: 'outerSpeed', from: 20, to: 40, count: 4 })
  const grades = strings.map((grade) => grade!)
  expect(grades.length).toBe(4)
  expect(Math.max(...grades) - Math.min(...grades)).toBeLessThanOrEqual(1)
})

import { diagnoseCase, EMPTY_CASE, standingTrials, type CaseOnBench } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { PROCEDURE_IDS, type ProcedureId } from '../src/knowledge'
import { deriveRecipe } from '../src/recipe'
import { makePiece, NO_READING, PIECES, proposeSteps, type PieceId, type ReadTrial } from '../src/trials'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const pair = { machine, filament, recipe: deriveRecipe({ machine, filament }) }
const at = (minute: number) => new Date(Date.UTC(2026, 0, 2, 8, minute)).toISOString()

/** A box of walls that all measure so many times what they should. */
function box(share: number, minute?: number): ReadTrial {
  const { steps, across } = proposeSteps(pair, 'flow-box')
  const plan = { piece: 'flow-box', steps, ...(across && { across }) } as const
  const { cells } = makePiece(pair, plan)
  const readings = Object.fromEntries(
    cells.map((c) => [
      c.id,
      c.measure
        ? { ...NO_READING, measures: [c.nominal! * share, c.nominal! * share] }
        : { ...NO_READING, grades: { closed: 3 } },
    ]),
  )
  return {
    number: 1,
    plan,
    cells,
    readings,
    resolution: 0.01,
    ...(minute !== undefined && { createdAt: at(minute) }),
  }
}
const repaired = (procedure: ProcedureId, minute?: number): CaseOnBench['attempts'][number] => ({
  number: 1,
  mends: [{ suspect: 'feed-steps-off', kind: 'handling', procedure }],
  signsBefore: { 'top-rough-overfull': 'present' },
  results: { 'top-rough-overfull': 'same' },
  newSigns: [],
  fromVersion: 1,
  toVersion: 1,
  ...(minute !== undefined && { createdAt: at(minute) }),
})

test('a trial made before a repair that changes what it is about no longer speaks; one made after it does', () => {
  const says = (trials: ReadTrial[], attempts: CaseOnBench['attempts']) =>
    diagnoseCase(
      { ...EMPTY_CASE, signs: { 'top-rough-overfull': 'present' }, attempts },
      { ...pair, today: '2026-01-02', trials },
    )
      .balance.suspects.find((s) => s.id === 'flow-too-low')!
      .present.valueOf()
  const fixed = [repaired('set-feed-steps', 20)]
  const [before, after] = [box(0.9, 10), box(0.9, 30)]
  expect(says([before], fixed)).toBeCloseTo(says([], fixed), 6)
  expect(says([after], fixed)).toBeGreaterThan(says([], fixed))
  // another repair leaves it standing
  const washed = [repaired('wash-bed', 20)]
  expect(says([before], washed)).toBeGreaterThan(says([], washed))
})

test('laws: nothing is dropped whose times are not known, what comes later always stands, and each piece is somebody’s', () => {
  const one = box(1)
  const of = (piece: PieceId, createdAt?: string) => ({ ...one, plan: { ...one.plan, piece }, createdAt })
  const pieces = Object.keys(PIECES) as PieceId[]
  const dropped = new Set<PieceId>()
  for (const procedure of PROCEDURE_IDS)
    for (const piece of pieces) {
      expect(standingTrials([of(piece)], [repaired(procedure, 20)])).toHaveLength(1)
      expect(standingTrials([of(piece, at(10))], [repaired(procedure)])).toHaveLength(1)
      expect(standingTrials([of(piece, at(30))], [repaired(procedure, 20)])).toHaveLength(1)
      if (!standingTrials([of(piece, at(10))], [repaired(procedure, 20)]).length) dropped.add(piece)
    }
  // a new roll, a new nozzle or a level bed: joints and times of layers alone hang on none of them
  expect(pieces.filter((p) => !dropped.has(p)).sort()).toEqual(['joint-ladder', 'layer-time-pair'])
})

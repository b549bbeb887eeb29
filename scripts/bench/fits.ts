// Do trials answer, and does their ± hold? Towers are drawn from curves that are not the fitted ones, and graded by hands
// that scatter, are lenient, slip and leave out.
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { deriveRecipe } from '@verimend/core/recipe'
import { normalStream, randomStream } from '@verimend/core/statistics'
import {
  NO_READING,
  PIECES,
  makePiece,
  outcomeOf,
  proposeSteps,
  type Outcome,
  type PieceId,
  type ReadTrial,
} from '@verimend/core/trials'
import { TRUTHS, gradedTower, type Truth } from '../../core/test/lib/towers'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const recipe = deriveRecipe({ machine, filament })
const context = { machine, filament, recipe }
const SEED = Number(process.env.VERIMEND_SEED ?? Date.now() % 1e6)
const RUNS = Number(process.env.VERIMEND_RUNS ?? 60)

/** A piece of so many bands, its cells in the order of their values. */
function blank(piece: PieceId, count: number): ReadTrial {
  const { steps, across } = proposeSteps(context, piece)
  const plan = { piece, steps: { ...steps, count }, ...(across && { across }) }
  const cells = makePiece(context, plan).cells.filter((c) => c.values[steps.key] !== undefined)
  return { number: 1, plan, cells, readings: {}, resolution: 0.01 }
}
const blanks = new Map<string, ReadTrial>()

interface Told {
  out: Outcome
  kept: boolean
  answered: boolean
  right: boolean
  wrong: boolean
  held: boolean | null
  off: number | null
}

function tell(
  piece: PieceId,
  truth: Truth,
  bands: number,
  fall: number,
  scatter: number,
  seed: number,
): Told {
  const key = `${piece} ${bands}`
  if (!blanks.has(key)) blanks.set(key, blank(piece, bands))
  const trial = blanks.get(key)!
  const { criteria } = PIECES[piece]
  const tower = gradedTower(truth, { bands, criteria: criteria.length, fall, scatter, seed })
  const own = trial.plan.steps.key
  const cells = [...trial.cells].sort((a, b) => a.values[own]! - b.values[own]!)
  const readings = Object.fromEntries(
    cells.flatMap((c, u) => {
      const grades = Object.fromEntries(
        criteria.flatMap((id, k) => (tower.grades[k]![u] === null ? [] : [[id, tower.grades[k]![u]]])),
      )
      return Object.keys(grades).length ? [[c.id, { ...NO_READING, grades }]] : []
    }),
  )
  const out = outcomeOf([{ ...trial, readings }], context)
  const [low, high] = [cells[0]!.values[own]!, cells[cells.length - 1]!.values[own]!]
  const band = (v: number) => ((v - low) / (high - low)) * (bands - 1)
  const kept = out.reasons.some((r) => r.code === 'keep-in-use' || r.code === 'keep-value')
  const answered = out.kind === 'found' || out.kind === 'end'
  const value = out.adopt[0]?.value ?? out.best
  const loss =
    value === null || value === undefined
      ? Infinity
      : tower.best - tower.worth(Math.min(bands - 1, Math.max(0, band(value))))
  const all = Array.from({ length: (bands - 1) * 20 + 1 }, (_, i) => i / 20)
  const good = all.filter((u) => tower.worth(u) >= tower.best - 0.03)
  return {
    out,
    kept,
    answered,
    right: answered && loss <= 0.3,
    wrong: answered && loss > 0.5,
    held:
      out.kind === 'found' && out.low !== null && out.high !== null
        ? good.some((u) => u >= band(out.low!) - 1e-6 && u <= band(out.high!) + 1e-6)
        : null,
    off: out.kind === 'found' && out.best !== null ? band(out.best) - tower.bestAt : null,
  }
}

const share = (list: readonly Told[], is: (t: Told) => boolean | null) => {
  const known = list.map(is).filter((v) => v !== null)
  return known.length
    ? `${((100 * known.filter(Boolean).length) / known.length).toFixed(0).padStart(4)}`
    : '   –'
}

const SCATTERS = [0.3, 0.5, 0.7]
console.log(`seed ${SEED}, ${RUNS} towers each`)
console.log('piece              truth        bands fall answered right wrong held kept   off, bands')
for (const piece of ['temperature-tower', 'corner-columns'] as const)
  for (const truth of TRUTHS)
    for (const bands of truth === 'nothing' ? [4, 5, 7, 9] : [5, 9])
      for (const fall of truth === 'nothing' ? [0] : piece === 'temperature-tower' ? [1, 2.5] : [2, 3.5]) {
        if (bands > PIECES[piece].counts.max) continue
        const told = Array.from({ length: RUNS * (truth === 'nothing' ? 4 : 1) }, (_, i) =>
          tell(piece, truth, bands, fall, SCATTERS[i % 3]!, SEED + 7919 * i),
        )
        const offs = told.flatMap((t) => (t.off === null ? [] : [t.off]))
        const rms = Math.sqrt(offs.reduce((s, v) => s + v * v, 0) / Math.max(1, offs.length))
        // where nothing varies, keeping what is in use is no offer
        const answered = (t: Told) => t.answered && !(truth === 'nothing' && t.kept)
        console.log(
          `${piece.padEnd(18)} ${truth.padEnd(12)} ${String(bands).padStart(5)} ${String(fall).padStart(4)} ${share(told, answered).padStart(8)} ${share(told, (t) => t.right).padStart(5)} ${share(told, (t) => t.wrong).padStart(5)} ${share(told, (t) => t.held)} ${share(told, (t) => t.kept)}   ${offs.length ? rms.toFixed(2) : ''}`,
        )
      }

// Retraction: strings that fade with length, gently or at once, and come back where the filament is worked too hard.
console.log(
  '\nretraction towers   bands answered  short>0.5 mm  long>1.5 mm  held  (wanted: the shortest within 0.4 of a grade of the best)',
)
for (const shape of ['fading', 'cliff', 'comes back'] as const)
  for (const bands of [6, 9]) {
    const trial = blank('retraction-tower', bands)
    const cells = [...trial.cells].sort((a, b) => a.values.retractLength! - b.values.retractLength!)
    const [low, high] = [cells[0]!.values.retractLength!, cells[bands - 1]!.values.retractLength!]
    let [answered, short, long, held] = [0, 0, 0, 0]
    const runs = RUNS * 3
    for (let k = 0; k < runs; k++) {
      const random = randomStream(SEED + 104729 * k)
      const normal = normalStream(random)
      const knee = low + (high - low) * (0.15 + 0.5 * random())
      const width = 0.3 + 0.5 * random()
      const worth = (l: number) =>
        shape === 'fading'
          ? 4 - 3 / (1 + Math.exp((l - knee + 1.5 * width) / (0.6 * width)))
          : shape === 'cliff'
            ? l < knee
              ? 1
              : 3.8
            : 3.8 - (l < knee ? Math.min(3, 1.6 * (knee - l)) : 0) - 0.5 * Math.max(0, l - knee - 1.5)
      const all = Array.from({ length: 400 }, (_, i) => low + ((high - low) * i) / 399)
      const best = Math.max(...all.map(worth))
      const wanted = all.find((l) => worth(l) >= best - 0.4)!
      const scatter = SCATTERS[k % 3]!
      const readings = Object.fromEntries(
        cells.map((c) => [
          c.id,
          {
            ...NO_READING,
            grades: {
              strings: Math.round(
                Math.min(4, Math.max(0, worth(c.values.retractLength!) + scatter * normal())),
              ),
            },
          },
        ]),
      )
      const out = outcomeOf([{ ...trial, readings }], context)
      const taken = out.adopt.find((a) => a.key === 'retractLength')?.value
      if (taken === undefined) continue
      answered++
      if (taken < wanted - 0.5) short++
      if (taken > wanted + 1.5) long++
      if (out.low! <= wanted + 0.1 && out.high! >= wanted - 0.1) held++
    }
    const of = (n: number, all: number) => `${((100 * n) / Math.max(1, all)).toFixed(0).padStart(4)} %`
    console.log(
      `${shape.padEnd(20)}${String(bands).padStart(4)} ${of(answered, runs)} ${of(short, answered).padStart(12)} ${of(long, answered).padStart(12)} ${of(held, answered)}`,
    )
  }

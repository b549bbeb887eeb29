import { spawnSync } from 'node:child_process'
import { openSync, readSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseStringSync } from 'gcode-parser'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { NO_READING, PIECE_IDS, makePiece, outcomeOf, proposeSteps } from '@verimend/core/trials'
import { PRIOR, SIGN_IDS, STRENGTH, SUSPECT_IDS, suspectOf } from '@verimend/core/knowledge'
import { SIGN_LEAK, findingContext, findingsOf, posterior, type SignStates } from '@verimend/core/diagnosis'
import { lintRecipe, deriveGraded, deriveRecipe, printSettingsOf } from '@verimend/core/recipe'
import { GcodeReader, readGcode } from '@verimend/core/gcode'
import { planMotion } from '@verimend/core/motion'
import { analysePath, readPath, summarise } from '@verimend/core/toolpath'
import { rewriteFile, type FileChange } from '@verimend/core/rewrite'
import { EMPTY_CASE, diagnoseCase, readinessOf } from '@verimend/core/casework'
import { writePart } from '@verimend/core/planner'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const recipe = deriveRecipe({ machine, filament })
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }

if (process.argv[2] === 'memory') {
  // in a process of its own: the file is streamed, and the highest memory over the start is what the analysis took
  const handle = openSync(process.argv[3], 'r')
  const chunk = Buffer.alloc(1 << 20)
  const reader = new GcodeReader()
  globalThis.gc?.()
  const before = process.memoryUsage().rss
  for (let n = readSync(handle, chunk); n > 0; n = readSync(handle, chunk)) reader.push(chunk.subarray(0, n))
  const program = reader.finish()
  findingsOf(readPath(program, context), findingContext({ machine, filament, recipe }))
  const peak = process.resourceUsage().maxRSS * 1024 - before
  console.log(
    `peak extra memory of everything: ${(peak / 1e6).toFixed(0)} MB, ${(peak / program.count).toFixed(0)} bytes a move (aim: 120)`,
  )
  process.exit(0)
}

/** Median of several runs, ms. */
function time(work: () => unknown, runs = 5): number {
  work()
  const all = Array.from({ length: runs }, () => {
    const from = performance.now()
    work()
    return performance.now() - from
  }).sort((a, b) => a - b)
  return all[runs >> 1]
}
const row = (what: string, ms: number, base?: number) =>
  console.log(
    `${what.padEnd(66)} ${ms.toFixed(2).padStart(9)} ms${base ? `  ${(ms / base).toFixed(1).padStart(6)} ×` : ''}`,
  )

// a part with walls, bores, fill and a narrowing step, six side by side, until a million lines are there
const part = (height: number) =>
  writePart(machine, printSettingsOf(recipe), {
    shape: 'round',
    width: 28,
    height,
    bore: 9,
    copies: 6,
    apart: 6,
    steps: [{ from: height * 0.7, inset: 4 }],
    slowDown: true,
  })
const perMillimetre = (part(20).split('\n').length - part(10).split('\n').length) / 10
const body = new TextEncoder().encode(part(Math.min(230, 1_000_000 / perMillimetre)))
const count = body.reduce((n, b) => n + (b === 10 ? 1 : 0), 0)
let sum = 0
const byteLoop = () => {
  for (let i = 0; i < body.length; i++) sum += body[i] === 10 ? 1 : 0
}
const loop = time(byteLoop, 5)
console.log(
  `\nPath reading: ${(body.length / 1e6).toFixed(1)} MB, ${count} lines (${sum > 0 ? 'ratio to a plain byte loop' : ''})`,
)
row('plain byte loop', loop, loop)
const tokens = time(() => new GcodeReader({ wordsOnly: true }).push(body), 5)
row('words only', tokens, loop)
row(
  'reading into moves',
  time(() => readGcode(body), 5),
  loop,
)
const program = readGcode(body)
row(
  'motion plan',
  time(() => planMotion(program, machine.limits), 3),
  loop,
)
const lap = (work: () => unknown) => {
  const from = performance.now()
  work()
  return performance.now() - from
}
const middleOf = (v: number[]) => [...v].sort((a, b) => a - b)[v.length >> 1]
// turn by turn with the byte loop, so that what else the machine does falls on both
const turns = Array.from({ length: 7 }, () => {
  const bytes = Math.min(lap(byteLoop), lap(byteLoop))
  const all = lap(() =>
    findingsOf(readPath(readGcode(body), context), findingContext({ machine, filament, recipe })),
  )
  return { all, ratio: all / bytes }
})
const ratios = turns.map((t) => t.ratio)
row('everything: parse, plan, layers, features, findings', middleOf(turns.map((t) => t.all)))
console.log(
  `  everything is ${middleOf(ratios).toFixed(1)} × the byte loop, ${Math.min(...ratios).toFixed(1)} to ${Math.max(...ratios).toFixed(1)} × over ${turns.length} turns (aim: 12 ×)`,
)
// a change is written beside a second reading of the file: held against taking the same file in once
const whole = (() => {
  const analysis = analysePath(readGcode(body), context)
  return { analysis, reading: summarise(analysis) }
})()
const CHANGES: [string, FileChange][] = [
  ['a longer pull-back', { kind: 'retract-length', value: 3 }],
  ['another nozzle temperature', { kind: 'nozzle', where: 'rest', value: 215 }],
  ['more flow on every line', { kind: 'flow', where: 'all', ratio: 1.03 }],
]
for (const [what, change] of CHANGES) {
  const laps = Array.from({ length: 5 }, () => {
    const once = lap(() => readPath(readGcode(body), context))
    const writing = lap(() => rewriteFile(body, whole, [change], machine, 1.75))
    return { writing, ratio: writing / once }
  })
  row(`writing ${what}`, middleOf(laps.map((t) => t.writing)))
  console.log(
    `  writing is ${middleOf(laps.map((t) => t.ratio)).toFixed(1)} × reading the same file (aim: 2 ×)`,
  )
}
// a general-purpose parser on a share of the file (it would not end on the whole): both read the same share, turn by
// turn, so that what else the machine does falls on both
const share = body.subarray(0, Math.floor(body.length / 20))
const text = new TextDecoder().decode(share)
const laps = Array.from({ length: 9 }, () => {
  const ours = lap(() => {
    for (let n = 0; n < 5; n++) new GcodeReader({ wordsOnly: true }).push(share)
  })
  const theirs = lap(() => parseStringSync(text))
  return { ours: ours / 5, theirs, ratio: (theirs / ours) * 5 }
}).sort((a, b) => a.ratio - b.ratio)
const middle = laps[laps.length >> 1]
row('words of a twentieth of it', middle.ours)
row('the same with a general-purpose CNC parser from the registry', middle.theirs)
console.log(
  `  reading words is ${middle.ratio.toFixed(0)} × as fast as that parser, ${laps[0].ratio.toFixed(0)} to ${laps.at(-1)!.ratio.toFixed(0)} × over ${laps.length} turns (aim: 30 ×)`,
)
const file = join(tmpdir(), 'verimend-bench.gcode')
writeFileSync(file, body)
const memory = spawnSync(process.execPath, ['--expose-gc', process.argv[1], 'memory', file], {
  encoding: 'utf8',
})
console.log(`  ${memory.stdout.trim()}`)
rmSync(file, { force: true })

console.log('\nTrials (aims: a piece under 300 ms, a fit under 50 ms)')
const onBench = { machine, filament, recipe }
for (const id of PIECE_IDS) {
  const { steps, across } = proposeSteps(onBench, id)
  row(
    `write ${id}`,
    time(() => makePiece(onBench, { piece: id, steps, ...(across && { across }) }), 5),
  )
}
for (const [name, piece] of [
  ['temperature tower, quadratic with its interval', 'temperature-tower'],
  ['retraction tower, broken stick with its interval', 'retraction-tower'],
] as const) {
  const plan = { piece, steps: proposeSteps(onBench, piece).steps }
  const { cells } = makePiece(onBench, plan)
  const readings = Object.fromEntries(
    cells.map((c, i) => [c.id, { ...NO_READING, grades: { strings: Math.min(4, i), bonding: 4 - (i % 3) } }]),
  )
  const trial = { number: 1, plan, cells, readings, resolution: 0.01 }
  row(
    `fit ${name}`,
    time(() => outcomeOf([trial], { recipe, machine, filament }), 9),
  )
}

console.log('\nDiagnosis')
const base = time(() => deriveRecipe({ machine, filament }), 50)
row('derive a whole recipe', base, base)
row(
  'derive it with its variants and check the rules (aim: under 5 ms)',
  time(() => {
    const graded = deriveGraded({ machine, filament })
    return lintRecipe({ machine, filament, values: graded.values, today: '2026-01-01' })
  }, 50),
  base,
)
row(
  'readiness of a pair',
  time(() => readinessOf({ machine, filament, values: recipe, today: '2026-01-01' }), 20),
  base,
)
const twelve: SignStates = {}
SIGN_IDS.slice(0, 12).forEach((s) => (twelve[s] = 'present'))
const causes = SUSPECT_IDS.map((id) => ({
  prior: PRIOR[suspectOf(id).prior],
  links: SIGN_IDS.slice(0, 12).flatMap((s, i): [number, number][] => {
    const strength = suspectOf(id).signs[s]
    return strength ? [[i, STRENGTH[strength]]] : []
  }),
}))
const seen = SIGN_IDS.slice(0, 12).map(() => ({ leak: SIGN_LEAK, state: true }))
row(
  'posterior of the whole knowledge with 12 signs seen (aim: under 16 ms)',
  time(() => posterior(causes, seen), 20),
  base,
)
for (const n of [1, 4, 8, 13]) {
  const signs: SignStates = {}
  SIGN_IDS.forEach((s, i) => i < 43 && (signs[s] = i < n ? 'present' : 'absent'))
  row(
    `diagnose with ${n} signs seen and the others not there, reasons and advice`,
    time(() => diagnoseCase({ ...EMPTY_CASE, signs }, { machine, filament, recipe, today: '2026-01-01' }), 9),
    base,
  )
}

import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { writePart } from '@verimend/core/planner'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, printSettingsOf, type Changes } from '@verimend/core/recipe'
import { rewriteFile, type FileChange } from '@verimend/core/rewrite'
import { analysePath, summarise } from '@verimend/core/toolpath'
import { kernelReady } from '../../core/test/lib/kernel'
import { appearancesOf, printProgram, soundWorld, type World } from '../src'

// A file with one thing wrong is printed, changed in that one thing, and printed again on the same simulated machine, which
// knows nothing of the change but the file.
const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const world = soundWorld(machine, 'pla')
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }

const file = (wrong: Changes, copies = 2): Uint8Array => {
  const pins = layOver({}, wrong, { source: 'hand', reason: said('') })
  const settings = printSettingsOf(deriveRecipe({ machine, filament, pins }))
  return new TextEncoder().encode(
    writePart(machine, settings, { shape: 'box', width: 12, height: 8, copies, apart: 30 }),
  )
}
const shows = (bytes: Uint8Array) =>
  appearancesOf(printProgram(readGcode(bytes, { filamentDiameter: 1.75 }), machine, world), world)
const changed = (bytes: Uint8Array, ...changes: FileChange[]) => {
  const analysis = analysePath(readGcode(bytes), context)
  return rewriteFile(bytes, { analysis, reading: summarise(analysis) }, changes, machine, 1.75).bytes
}

/** What is wrong with the file, what shows of it, and what puts it right in the file. */
const WRONGS: [string, Changes, keyof ReturnType<typeof shows>, FileChange[]][] = [
  ['a pull-back too short', { retractLength: 1 }, 'strings-thin', [{ kind: 'retract-length', value: 5.1 }]],
  ['too much flow', { flow: 115 }, 'top-rough-overfull', [{ kind: 'flow', where: 'all', ratio: 1 / 1.15 }]],
  [
    'an overfed first layer',
    { flowFirst: 140 },
    'base-flare',
    [{ kind: 'flow', where: 'first', ratio: 1 / 1.4 }],
  ],
  [
    'a nozzle too hot',
    { nozzle: 240, nozzleFirst: 240 },
    'rough-foamy-surface',
    [
      { kind: 'nozzle', where: 'first', value: 208 },
      { kind: 'nozzle', where: 'rest', value: 208 },
    ],
  ],
  ['a nozzle too cold', { nozzle: 185 }, 'dull-finish', [{ kind: 'nozzle', where: 'rest', value: 208 }]],
  ['no fan', { fan: 0 }, 'sagging-overhangs', [{ kind: 'fan', where: 'rest', value: 1 }]],
  [
    'a nozzle too far off',
    { zOffset: 0.2 },
    'first-layer-not-sticking',
    [{ kind: 'move', x: 0, y: 0, z: -0.2 }],
  ],
]
const sound = shows(file({}))

test.each(WRONGS)('%s: the changed file cures it, and brings nothing else', (_, wrong, sign, changes) => {
  const old = file(wrong)
  expect(shows(old)[sign]).toBeGreaterThan(0.6)
  const after = shows(changed(old, ...changes))
  expect(after[sign]).toBeLessThan(0.25)
  for (const [other, degree] of Object.entries(after))
    expect([other, degree < (sound[other as keyof typeof sound] ?? 0) + 0.3]).toEqual([other, true])
})
test('a loop’s end that is fed less leaves a smaller blob', () => {
  const after = shows(changed(file({ earlyStop: 0, wipe: 0 }), { kind: 'early-stop', volume: 0.06 }))
  expect(after['seam-blob']).toBeLessThan(shows(file({ earlyStop: 0, wipe: 0 }))['seam-blob'] - 0.1)
})
test('what is not the cause cures nothing: more fan for strings, another bed for an overfull top', () => {
  const strings = shows(
    changed(file({ retractLength: 1, fan: 60 }), { kind: 'fan', where: 'rest', value: 1 }),
  )
  expect(strings['strings-thin']).toBeGreaterThan(0.6)
  const full = shows(changed(file({ flow: 115 }), { kind: 'bed', where: 'rest', value: 55 }))
  expect(full['top-rough-overfull']).toBeGreaterThan(0.6)
})

describe('grip laid round what a file draws', () => {
  const slate = demoFilaments('2026-01-01').slate
  const pins = layOver(
    {},
    { brimLines: 0, skirtLoops: 0, draughtWall: 0 },
    { source: 'hand', reason: said('') },
  )
  const settings = printSettingsOf(deriveRecipe({ machine, filament: slate, pins }))
  const hood = new TextEncoder().encode(
    writePart(machine, settings, { shape: 'box', width: 110, depth: 60, height: 8 }),
  )
  const held = { ...context, density: 1.07 }
  const lifting: World = {
    ...soundWorld(machine, 'asa'),
    bed: { ...soundWorld(machine, 'asa').bed, clean: 0.7, colder: 6 },
    air: { ...soundWorld(machine, 'asa').air, draught: 1 },
  }
  const lifts = (bytes: Uint8Array, w: World = lifting) => {
    const program = readGcode(bytes, { filamentDiameter: 1.75 })
    return appearancesOf(printProgram(program, machine, w), w)['corners-lift']
  }
  const gripped = async (...changes: FileChange[]) => {
    const analysis = analysePath(readGcode(hood), held)
    const file = { analysis, reading: summarise(analysis) }
    return rewriteFile(hood, file, changes, machine, 1.75, await kernelReady).bytes
  }

  test('corners that lift are held by a brim and by tabs, less by a wall, and by nothing that has no part in it', async () => {
    const bare = lifts(hood)
    expect(bare).toBeGreaterThan(0.6)
    expect(lifts(await gripped({ kind: 'brim', lines: 14, gap: 0 }))).toBeLessThan(0.25)
    expect(lifts(await gripped({ kind: 'tabs', diameter: 20 }))).toBeLessThan(0.25)
    expect(lifts(await gripped({ kind: 'draught-wall', lines: 1 }))).toBeLessThan(bare - 0.1)
    const dirty = { ...lifting, bed: { ...lifting.bed, clean: 0.4, colder: 14 } }
    expect(lifts(await gripped({ kind: 'brim', lines: 14, gap: 0 }), dirty)).toBeGreaterThan(0.6)
    expect(lifts(await gripped({ kind: 'skirt', lines: 3 }))).toBeCloseTo(bare, 1)
    expect(lifts(await gripped({ kind: 'retract-length', value: 2 }))).toBeCloseTo(bare, 1)
  })
  test('a brim changes nothing of strings', async () => {
    const strings = file({ retractLength: 1, skirtLoops: 0 })
    const analysis = analysePath(readGcode(strings), context)
    const { bytes } = rewriteFile(
      strings,
      { analysis, reading: summarise(analysis) },
      [{ kind: 'brim', lines: 8, gap: 0 }],
      machine,
      1.75,
      await kernelReady,
    )
    expect(shows(bytes)['strings-thin']).toBeGreaterThan(0.6)
  })
})

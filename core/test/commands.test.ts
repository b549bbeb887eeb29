import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import type { Commands, Machine } from '../src/machine'
import { writePart } from '../src/planner'
import { said } from '../src/quantity'
import { deriveGraded, printSettingsOf } from '../src/recipe'
import { makePiece } from '../src/trials'
import { recipeGcode } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'

// Whatever a machine's commands are: its exports, pieces and parts use exactly those and no others.
const commands: fc.Arbitrary<Commands> = fc.record({
  feed: fc.constantFrom('relative', 'absolute'),
  fan: fc.constantFrom('bytes', 'fraction'),
  acceleration: fc.constantFrom('split', 'single', 'none'),
  corner: fc.constantFrom('change', 'deviation', 'none'),
  pressure: fc.constantFrom('k', 's', 'none'),
  level: fc.constantFrom('probe', 'kept', 'none'),
})
const filament = demoFilaments('2026-01-01').pond

/** Commands as they stand in a file, without remarks. */
const linesOf = (gcode: string) =>
  gcode
    .split('\n')
    .map((l) => l.replace(/;.*$/, '').trim())
    .filter(Boolean)

/** How each choice is spelt. */
const SPELT: { [K in keyof Commands]: Record<Commands[K], RegExp | null> } = {
  feed: { relative: /^M83\b/, absolute: /^M82\b/ },
  fan: { bytes: /^M106 S(\d|\d\d|1\d\d|2[0-4]\d|25[0-5])$/, fraction: /^M106 S(0|1|0\.\d+)$/ },
  acceleration: { split: /^M204 P\d+ T\d+$/, single: /^M204 S\d+$/, none: null },
  corner: { change: /^M205 X[\d.]+ Y[\d.]+$/, deviation: /^M205 J[\d.]+$/, none: null },
  pressure: { k: /^M900 K[\d.]+$/, s: /^M572 S[\d.]+$/, none: null },
  level: { probe: /^G29$/, kept: /^M420 S1$/, none: null },
}
/** Any spelling of a kind. */
const KIND: Record<keyof Commands, RegExp> = {
  feed: /^M8[23]\b/,
  fan: /^M106\b/,
  acceleration: /^M204\b/,
  corner: /^M205\b/,
  pressure: /^M(900|572)\b/,
  level: /^(G29|M420)\b/,
}

function check(machine: Machine, gcode: string, what: string, needed: (keyof Commands)[]): void {
  const lines = linesOf(gcode)
  for (const kind of Object.keys(KIND) as (keyof Commands)[]) {
    const own = lines.filter((l) => KIND[kind].test(l))
    const choice = machine.commands![kind]
    const spelt = (SPELT[kind] as Record<string, RegExp | null>)[choice]
    const odd = own.filter((l) => !spelt?.test(l))
    expect([what, kind, choice, odd]).toEqual([what, kind, choice, []])
    if (spelt && needed.includes(kind))
      expect([what, kind, choice, own.length > 0]).toEqual([what, kind, choice, true])
  }
  const p = readGcode(Uint8Array.from(`${gcode}\nG1 X1 F600\n`, (c) => c.charCodeAt(0)))
  expect([what, p.faultCount, [...p.unknown]]).toEqual([what, 0, []])
}

test('exports, pieces and parts speak the machine’s commands and no others', () => {
  fc.assert(
    fc.property(commands, fc.constantFrom(...Object.values(DEMO_MACHINES)), (c, base) => {
      const machine: Machine = { ...base, commands: c }
      const recipe = deriveGraded({ machine, filament, pins: hand({ pressureCompensation: 0.04, fan: 60 }) })
      const pair = { machine, filament, recipe: recipe.values }
      const head: (keyof Commands)[] = ['feed', 'acceleration', 'corner', 'pressure', 'level']
      const exported = recipeGcode({
        machine,
        filament,
        recipe,
        number: 2,
        reason: said('Box.'),
        written: '2026-01-01T00:00:00Z',
      })
      check(machine, exported, 'export', head)
      const posts = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } } as const
      check(machine, makePiece(pair, posts).gcode, 'piece', [...head, 'fan'])
      const tower = { piece: 'fan-tower', steps: { key: 'fan', from: 20, to: 100, count: 3 } } as const
      check(machine, makePiece(pair, tower).gcode, 'fan tower', [...head, 'fan'])
      const part = writePart(machine, printSettingsOf(recipe.values), { shape: 'box', width: 12, height: 2 })
      check(machine, part, 'part', [...head, 'fan'])
    }),
    tries(20),
  )
})

test('a machine that says nothing of its commands is spoken to as usual', () => {
  const machine = { ...DEMO_MACHINES.shed, commands: undefined }
  const recipe = deriveGraded({ machine, filament })
  const lines = linesOf(
    writePart(machine, printSettingsOf(recipe.values), { shape: 'box', width: 12, height: 1 }),
  )
  expect(lines).toEqual(expect.arrayContaining(['M83', 'G28']))
  expect(lines.some((l) => /^M204 P\d+ T\d+$/.test(l))).toBe(true)
})

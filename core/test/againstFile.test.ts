import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import { writePart } from '../src/planner'
import { said } from '../src/quantity'
import {
  SETTING_KEYS,
  compareWithRecipe,
  deriveRecipe,
  layOver,
  printSettingsOf,
  settingApplies,
  settingOf,
  type Changes,
  type RecipeValues,
  type SettingKey,
} from '../src/recipe'
import { readPath, type PathReading } from '../src/toolpath'
import { tries } from './lib/property'

const bytes = (text: string) => new TextEncoder().encode(text)
const rolls = Object.values(demoFilaments('2026-01-01'))
const machines = Object.values(DEMO_MACHINES)
type Bench = { machine: (typeof machines)[number]; filament: (typeof rolls)[number] }

/** A recipe with some settings set by hand. */
const recipeWith = ({ machine, filament }: Bench, set: Changes = {}): RecipeValues =>
  deriveRecipe({ machine, filament, pins: layOver({}, set, { source: 'hand', reason: said('') }) })
/** Several copies of a tower: layers, travels and a bed that is filled enough to tell spacing. */
function printed({ machine }: Bench, recipe: RecipeValues) {
  const text = writePart(machine, printSettingsOf(recipe), {
    shape: 'box',
    width: 22,
    height: 6,
    copies: 2,
    apart: 15,
  })
  return readPath(readGcode(bytes(text)), {
    filamentDiameter: recipe.diameter.value,
    density: recipe.density.value,
    nozzleDiameter: machine.nozzle.diameter,
    limits: machine.limits,
  })
}
const READABLE = SETTING_KEYS.filter((key) => settingOf(key).inFile)

test('a file that was written from a recipe differs from it nowhere', () => {
  const wrong: string[] = []
  for (const machine of machines)
    for (const filament of rolls) {
      const recipe = recipeWith({ machine, filament })
      for (const d of compareWithRecipe(printed({ machine, filament }, recipe), recipe))
        wrong.push(
          `${machine.name}, ${filament.name}: ${d.key} ${String(d.recipe)} in file ${String(d.file)}`,
        )
    }
  expect(wrong).toEqual([])
})

/** A value that is far enough from the recipe's to be another, and still printable. */
const OTHER: Partial<Record<SettingKey, (v: number) => number>> = {
  nozzle: (v) => v - 12,
  nozzleFirst: (v) => v - 12,
  bed: (v) => Math.max(0, v - 15),
  bedFirst: (v) => Math.max(0, v - 15),
  fan: (v) => (v > 50 ? v - 40 : v + 40),
  fanOffLayers: (v) => v + 3,
  flowFirst: (v) => v + 15,
  firstHeight: (v) => v + 0.06,
  firstWidth: (v) => v * 1.3,
  firstSpeed: (v) => v * 0.6,
  outerSpeed: (v) => v * 0.6,
  travelSpeed: (v) => v * 0.6,
  retractLength: (v) => v + 0.4,
  retractSpeed: (v) => v * 0.6,
  restartExtra: (v) => v + 0.1,
  zLift: (v) => v + 0.4,
  wipe: (v) => v + 0.8,
  earlyStop: (v) => v + 0.1,
  pressureCompensation: (v) => v + 0.05,
  wallCount: (v) => v - 1,
  topLayers: (v) => v - 2,
  bottomLayers: (v) => v + 2,
  sparseDensity: (v) => v + 20,
  brimLines: (v) => v + 6,
  draughtWall: (v) => v + 1,
  fanRampLayers: (v) => v + 4,
  outerWidth: (v) => v * 1.3,
  firstAcceleration: (v) => v - 200,
}
const CHOSEN: Partial<Record<SettingKey, string>> = { wallOrder: 'outside-first', seamPlace: 'scattered' }
/** What a plain part has none of, laid into its reading. */
const LAID: Partial<Record<SettingKey, (r: PathReading) => PathReading>> = {
  spiral: (r) => ({ ...r, spiral: true }),
  raft: (r) => ({ ...r, base: { ...r.base, raftLayers: 3 } }),
  bridgeSpeed: (r) => ({ ...r, features: r.features.map((f, i) => (i === 5 ? { ...f, usual: 90 } : f)) }),
  fanBridge: (r) => ({ ...r, features: r.features.map((f, i) => (i === 5 ? { ...f, fan: 0 } : f)) }),
}

test.each(READABLE)('%s printed otherwise than the recipe has it is named, with both values', (key) => {
  const bench = { machine: DEMO_MACHINES.greenhouse, filament: demoFilaments('2026-01-01').fern }
  const recipe = recipeWith(bench)
  expect(settingApplies(key, recipe)).toBe(true)
  const { value } = recipe[key]
  const s = settingOf(key)
  const other =
    typeof value === 'boolean'
      ? !value
      : typeof value === 'number'
        ? (OTHER[key] ?? ((v: number) => v * 0.7))(value)
        : CHOSEN[key]!
  // what a file can only fall short of: the recipe asks for more than is there
  const less = s.inFile!.only === 'less'
  const laid = LAID[key] ?? ((r: PathReading) => r)
  const file = laid(printed(bench, recipeWith(bench, { [key]: less ? 0 : other })))
  const asked = less
    ? recipeWith(bench, {
        [key]: key === 'minLayerTime' ? 25 : Math.max(Number(value), 2),
        ...(key === 'minLayerTime' && { speedFloor: 3 }),
      })
    : recipe
  const found = compareWithRecipe(file, asked).find((d) => d.key === key)
  expect(found).toBeTruthy()
  expect(found!.recipe).toBe(asked[key].value)
  if (typeof found!.file === 'number' && typeof other === 'number' && !less)
    if (!LAID[key]) expect(Math.abs(found!.file - other)).toBeLessThan(Math.abs(found!.file - Number(value)))
})

test('what rounding in the file explains is no difference; beyond it, it is', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('nozzle', 'retractLength', 'firstSpeed' as const),
      fc.double({ min: -1, max: 1, noNaN: true }),
      (key, share) => {
        const s = settingOf(key as SettingKey)
        const bench = { machine: DEMO_MACHINES.shed, filament: demoFilaments('2026-01-01').fern }
        const recipe = recipeWith(bench)
        const value = Number(recipe[key as SettingKey].value)
        const { slack = 0, read } = s.inFile!
        const allowed = typeof slack === 'function' ? slack(value) : slack
        const reading = printed(bench, recipe)
        const apart = Math.abs(Number(read(reading)) - value)
        expect(apart).toBeLessThanOrEqual(allowed)
        // the same reading against a recipe that is moved by less, or by more, than is allowed
        const moved = {
          ...recipe,
          [key]: { ...recipe[key as SettingKey], value: value + share * 4 * allowed },
        }
        const told = compareWithRecipe(reading, moved as RecipeValues).some((d) => d.key === key)
        const far = Math.abs(Number(read(reading)) - (value + share * 4 * allowed))
        expect(told).toBe(far > allowed)
      },
    ),
    tries(12),
  )
})

test('a setting that does not apply is never compared', () => {
  const bench = { machine: DEMO_MACHINES.shed, filament: demoFilaments('2026-01-01').fern }
  const off = recipeWith(bench, { retract: false })
  const pulled = printed(bench, recipeWith(bench, { retract: true, retractLength: 6 }))
  const keys = compareWithRecipe(pulled, off).map((d) => d.key)
  expect(keys).toContain('retract')
  expect(keys).not.toContain('retractLength')
  expect(keys).not.toContain('retractSpeed')
})

import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import type { Machine } from '@verimend/core/machine'
import { cardOf, type FamilyId, type Filament } from '@verimend/core/material'
import { said } from '@verimend/core/quantity'
import {
  deriveRecipe,
  layOver,
  switchedOnFor,
  type Changes,
  type Pins,
  type RecipeValues,
} from '@verimend/core/recipe'
import {
  makePiece,
  NO_READING,
  outcomeAmong,
  PIECES,
  type CellReading,
  type CriterionId,
  type Outcome,
  type PairOnBench,
  type PiecePlan,
  type Readings,
  type ReadTrial,
} from '@verimend/core/trials'
import {
  caliper,
  gradedBy,
  gradesOf,
  observe,
  printProgram,
  spanOf,
  weigh,
  type ObservationId,
  type Person,
  type PrintedPart,
  type World,
} from '../src'

/** Machines of the proof, in general kinds. */
export const MACHINES: Record<'tube' | 'direct' | 'enclosed', Machine> = {
  tube: DEMO_MACHINES.shed,
  direct: { ...DEMO_MACHINES.greenhouse, frame: 'open', chamber: null },
  enclosed: DEMO_MACHINES.greenhouse,
}
export type MachineKind = keyof typeof MACHINES

/** A new roll of a family of which nothing is known but its name. */
export const newRoll = (family: FamilyId): Filament => ({
  ...demoFilaments('2026-01-01').fern,
  name: cardOf(family).name,
  family,
  label: { nozzle: null, bed: null, speed: null, drying: null },
  shore: null,
  measured: [],
  dryings: [],
  openedOn: '2026-01-01',
  notes: '',
})
export const TODAY = '2026-01-02'

/** mm: readings of a caliper and of a scale. */
const RESOLUTION = 0.01
/** Minutes that another look at a piece takes. */
const AGAIN = 5
/** A person measures each place so often. */
const REPEATS = 3

/** A file printed in a world, without being charged for. */
export const printed = (gcode: string, machine: Machine, world: World): PrintedPart =>
  printProgram(readGcode(Buffer.from(gcode), { filamentDiameter: 1.75 }), machine, world)

/** A person with a roll, a machine and what they have found out of it: everything goes through what the app does. */
export class Sitting {
  readonly trials: ReadTrial[] = []
  machine: Machine
  filament: Filament
  pins: Pins = layOver({}, {}, { source: 'hand', reason: said('') })
  prints = 0
  grams = 0
  minutes = 0
  private visit = 0
  private minute = 0
  private looks = 0
  private last: { part: PrintedPart; piece: ReturnType<typeof makePiece> } | null = null

  constructor(
    machine: Machine,
    filament: Filament,
    public world: World,
    readonly person: Person,
  ) {
    this.machine = machine
    this.filament = filament
  }

  /** Another sitting of the same person, as far as this one has come. */
  copy(): Sitting {
    const twin = new Sitting(this.machine, this.filament, this.world, this.person)
    return Object.assign(twin, { ...this, trials: [...this.trials] })
  }

  get recipe(): RecipeValues {
    return deriveRecipe({ machine: this.machine, filament: this.filament, pins: this.pins })
  }
  get pair(): PairOnBench {
    return { machine: this.machine, filament: this.filament, recipe: this.recipe }
  }

  /** ISO time, later each time it is asked for. */
  now(): string {
    return new Date(Date.parse(TODAY) + ++this.minute * 60_000).toISOString()
  }

  /** Takes values into the recipe, as measured or by hand. */
  take(set: Changes, plusMinus?: Record<string, number>): void {
    this.pins = layOver(this.pins, set, {
      source: plusMinus ? 'measured' : 'hand',
      at: TODAY,
      reason: said(''),
      ...(plusMinus && { measured: plusMinus }),
    } as never)
  }

  print(gcode: string): PrintedPart {
    const part = printed(gcode, this.machine, this.world)
    this.charge(part)
    return part
  }

  /** Counts a print with what it takes. */
  charge({ grams, seconds }: Pick<PrintedPart, 'grams' | 'seconds'>): void {
    this.prints++
    this.grams += grams
    this.minutes += seconds / 60
  }

  /** What somebody notes who looks, feels or measures without printing. */
  observe(what: ObservationId): number[] {
    return observe(what, this.world, this.machine, ++this.visit + this.person.seed * 100).values
  }

  /** Prints a piece as it is planned and reads it place by place. @returns what comes of it */
  tryPiece(plan: PiecePlan): Outcome {
    const { pair } = this
    const piece = makePiece(pair, plan)
    const part = this.print(piece.gcode)
    this.last = { part, piece }
    return this.noted(plan)
  }

  /** Looks at the piece printed last once more, with fresh eyes, as an outcome may ask for. */
  lookAgain(plan: PiecePlan): Outcome {
    this.minutes += AGAIN
    return this.noted(plan)
  }

  private noted(plan: PiecePlan): Outcome {
    const { part, piece } = this.last!
    const trial: ReadTrial = {
      number: this.trials.length + 1,
      plan,
      cells: piece.cells,
      readings: readingsOf(
        part,
        this.world,
        piece.cells,
        PIECES[plan.piece].criteria,
        this.person,
        ++this.looks,
      ),
      resolution: RESOLUTION,
      createdAt: this.now(),
    }
    this.trials.push(trial)
    return outcomeAmong(trial, this.trials, this.pair)
  }

  /** Takes over what an outcome gives. @returns whether there was anything */
  adopt(outcome: Outcome): boolean {
    if (!outcome.adopt.length) return false
    this.take(
      {
        ...(Object.fromEntries(outcome.adopt.map((a) => [a.key, a.value])) as Changes),
        ...switchedOnFor(
          outcome.adopt.map((a) => a.key),
          this.recipe,
        ),
      },
      Object.fromEntries(outcome.adopt.map((a) => [a.key, a.plusMinus])),
    )
    return true
  }
}

/** What a person notes of each place. */
export function readingsOf(
  part: PrintedPart,
  world: World,
  cells: readonly ReadTrial['cells'][number][],
  criteria: readonly CriterionId[],
  person: Person,
  visit: number,
): Readings {
  const readings: Readings = {}
  const { density } = cardOf(world.family)
  let place = visit * 1000
  for (const c of cells) {
    const grades: CellReading['grades'] = {}
    if (!c.measure) {
      const seen = gradesOf(part, world, c.box, criteria)
      for (const criterion of criteria)
        if (seen[criterion] !== undefined) grades[criterion] = gradedBy(seen[criterion], person, ++place)
    }
    const measures: number[] = []
    if (c.measure === 'grams') measures.push(weigh(part, density, c.box))
    else if (c.measure) {
      const size = spanOf(part, world, c.box, c.axis ?? 'x', c.measure)
      for (let k = 0; k < REPEATS; k++) {
        place++
        if (size !== null) measures.push(caliper(size, world, RESOLUTION, place))
      }
    }
    if (Object.keys(grades).length || measures.length)
      readings[c.id] = { ...NO_READING, grades, measures: measures.filter((v) => v > 0) }
  }
  return readings
}

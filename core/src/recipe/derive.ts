import { beadArea, filamentArea, speedAtMeltCap } from '../extrusion/bead'
import { coolingTime, fanCoefficient } from '../extrusion/cooling'
import { decideDispute } from '../knowledge/disputes'
import { cardOf, type MaterialCard } from '../materials/cards'
import { diameterFacts, type Filament } from '../materials/filament'
import { squareCornerDeviation, squareCornerSpeed } from '../motion/trapezoid'
import { fullStep, meltCap, type Machine } from '../materials/machine'
import { figure, quantity } from '../units/format'
import { SETTING_KEYS, settingOf, roundTo, type SettingKey, type SettingValue } from './settings'

/** Where a value can come from, weakest first. A machine limit is not a source: it clips whichever wins. */
export const SOURCES = ['card', 'relative', 'label', 'computed', 'measured', 'mend', 'hand'] as const
export type Source = (typeof SOURCES)[number]
export const SOURCE_NAMES: Record<Source | 'limit', string> = {
  card: 'material card',
  relative: 'tested relative',
  label: 'label',
  computed: 'computed',
  measured: 'measured',
  mend: 'from a case',
  hand: 'set by hand',
  limit: 'machine limit',
}

/** One source's say about one setting. */
export interface Offer {
  source: Source
  value: SettingValue
  /** The reason, as a sentence. */
  words: string
}

/** A value that stands against re-derivation: measured, mended or set by hand. */
export interface Pinned {
  value: SettingValue
  source: 'measured' | 'mend' | 'hand'
  words: string
  /** ± in the setting's unit, for measured values. */
  plusMinus?: number
  /** ISO date it was measured, mended or set. */
  at?: string
}

/** What a tested relative brings: values that beat the card, unproven on this roll. */
export type Inherited = Partial<Record<SettingKey, { value: SettingValue; words: string }>>

/** Layer-height grades of a recipe. The standard one is the base; the others follow it. */
export const GRADES = ['fine', 'standard', 'coarse'] as const
export type Grade = (typeof GRADES)[number]
export type Variant = Exclude<Grade, 'standard'>

/** A setting's value with the reason for it. */
export interface Resolved {
  value: SettingValue
  source: Source
  words: string
  plusMinus?: number
  /** ISO date, for values that were measured, mended or set. */
  at?: string
  /** Settings this value was worked out from. */
  follows?: SettingKey[]
  /** Set when the machine's limit moved the winner. */
  clippedFrom?: number
  /** All offers, weakest first; the last one won. */
  stack: Offer[]
}

export type RecipeValues = Record<SettingKey, Resolved>
export type Pins = Partial<Record<SettingKey, Pinned>>

export interface DeriveInput {
  machine: Machine
  filament: Filament
  pins?: Pins
  relative?: Inherited
  grade?: Grade
}

type Rule = (d: Derivation) => (Offer | null)[]

const offer = (source: Source, value: SettingValue, words: string): Offer => ({ source, value, words })
const card = (value: SettingValue, words: string) => offer('card', value, words)
const computed = (value: SettingValue, words: string) => offer('computed', value, words)
const practice = (value: SettingValue, words: string) =>
  offer('card', value, `${words} Common practice, no source.`)

/** Resolves settings on demand so that a rule can ask for the values it depends on. */
class Derivation {
  readonly card: MaterialCard
  private readonly done = new Map<SettingKey, Resolved>()
  /** Settings being worked out, innermost last, with what each has asked for. */
  private readonly open = new Map<SettingKey, Set<SettingKey>>()

  constructor(
    readonly machine: Machine,
    readonly filament: Filament,
    private readonly pins: Pins,
    readonly relative: Inherited,
    readonly grade: Grade,
  ) {
    this.card = cardOf(filament.family)
  }

  /** Value of another setting; the asking one then follows it. */
  number(key: SettingKey): number {
    return Number(this.ask(key).value)
  }

  private ask(key: SettingKey): Resolved {
    const asking = [...this.open.values()].at(-1)
    asking?.add(key)
    return this.resolve(key)
  }

  /** What the relative brings for a setting, as a number. */
  inherited(key: SettingKey): number | undefined {
    const v = this.relative[key]?.value
    return typeof v === 'number' ? v : undefined
  }

  resolve(key: SettingKey): Resolved {
    const known = this.done.get(key)
    if (known) return known
    if (this.open.has(key)) throw new Error(`setting ${key} depends on itself`)
    const asked = new Set<SettingKey>()
    this.open.set(key, asked)
    const stack = RULES[key](this).filter((o): o is Offer => o !== null)
    const relative = this.relative[key]
    if (relative) stack.push(offer('relative', relative.value, relative.words))
    const pin = this.pins[key]
    if (pin) stack.push(offer(pin.source, pin.value, pin.words))
    stack.sort((a, b) => SOURCES.indexOf(a.source) - SOURCES.indexOf(b.source))
    const winner = stack.at(-1)
    if (!winner) throw new Error(`setting ${key} has no source`)
    const result = this.finish(key, winner, stack)
    if (pin?.plusMinus !== undefined && winner.source === 'measured') result.plusMinus = pin.plusMinus
    if (pin?.at !== undefined) result.at = pin.at
    if (asked.size && !pin) result.follows = [...asked]
    this.open.delete(key)
    this.done.set(key, result)
    return result
  }

  private finish(key: SettingKey, winner: Offer, stack: Offer[]): Resolved {
    const setting = settingOf(key)
    if (setting.kind !== 'number' || typeof winner.value !== 'number')
      return { value: winner.value, source: winner.source, words: winner.words, stack }
    const asked = winner.value
    const limit = LIMITS[key]?.(this.machine)
    // A value someone set or measured is kept to the digit; derived ones are rounded to the step.
    const exact = winner.source === 'hand' || winner.source === 'mend' || winner.source === 'measured'
    const value = exact
      ? Number(Math.min(setting.max, Math.max(setting.min, asked)).toFixed(4))
      : roundTo(setting, asked)
    if (limit !== undefined && value > limit) {
      return {
        value: limit,
        source: winner.source,
        words: `${winner.words} Held at the machine's limit of ${quantity(limit, setting.unit)}.`,
        clippedFrom: asked,
        stack,
      }
    }
    return { value, source: winner.source, words: winner.words, stack }
  }

  /** Speed held under the melt cap for a line of the given width. */
  capped(
    key: SettingKey,
    feature: SettingKey,
    wanted: number,
    width: number,
    words: string,
    height = this.number('layerHeight'),
  ): Offer[] {
    const flow = (this.number('flow') / 100) * (feature === 'flow' ? 1 : this.number(feature) / 100)
    const cap = this.number('meltCap')
    const most = Math.floor(speedAtMeltCap(width, height, cap, flow))
    const fastest = this.filament.label.speed?.max
    const offers = [card(wanted, words)]
    let best = this.inherited(key) ?? wanted
    if (fastest !== undefined && fastest < best) {
      best = fastest
      offers.push(offer('label', fastest, `The label allows ${quantity(fastest, 'mm/s')} at most.`))
    }
    if (most < best)
      offers.push(
        computed(
          Math.max(3, most),
          `A ${figure(width)} × ${figure(height)} mm line at ${quantity(best, 'mm/s', 0)} asks ${quantity(
            beadArea(width, height) * best * flow,
            'mm³/s',
            1,
          )}; this nozzle melts ${quantity(cap, 'mm³/s', 1)} of ${this.card.name}.`,
        ),
      )
    return offers
  }
}

/** Upper limits the machine sets. */
const LIMITS: Partial<Record<SettingKey, (m: Machine) => number>> = {
  nozzleFirst: (m) => m.limits.nozzle,
  nozzle: (m) => m.limits.nozzle,
  bedFirst: (m) => m.limits.bed,
  bed: (m) => m.limits.bed,
  chamber: (m) => m.chamber ?? 0,
  firstSpeed: (m) => m.limits.speed,
  outerSpeed: (m) => m.limits.speed,
  innerSpeed: (m) => m.limits.speed,
  solidSpeed: (m) => m.limits.speed,
  topSpeed: (m) => m.limits.speed,
  sparseSpeed: (m) => m.limits.speed,
  bridgeSpeed: (m) => m.limits.speed,
  smallLoopSpeed: (m) => m.limits.speed,
  travelSpeed: (m) => m.limits.speed,
  outerAcceleration: (m) => m.limits.acceleration,
  innerAcceleration: (m) => m.limits.acceleration,
  travelAcceleration: (m) => m.limits.travelAcceleration,
  firstAcceleration: (m) => m.limits.acceleration,
  slowZoneSpeed: (m) => m.limits.speed,
  speedFloor: (m) => m.limits.speed,
  raftBottomSpeed: (m) => m.limits.speed,
  raftTopSpeed: (m) => m.limits.speed,
  cornerChange: (m) => (m.limits.corner.kind === 'instant-change' ? m.limits.corner.limit : 50),
  junctionDeviation: (m) => (m.limits.corner.kind === 'junction-deviation' ? m.limits.corner.deviation : 0.5),
  fan: (m) => (m.fan.present ? 100 : 0),
  fanOverhang: (m) => (m.fan.present ? 100 : 0),
  fanBridge: (m) => (m.fan.present ? 100 : 0),
}

/** Highest value the machine allows for a setting; undefined where it sets none. */
export function machineLimit(key: SettingKey, machine: Machine): number | undefined {
  return LIMITS[key]?.(machine)
}

const nozzleOffers: Rule = (d) => {
  const { card: c, filament: f } = d
  const label = f.label.nozzle
  const share = (c.nozzle.start - c.nozzle.min) / (c.nozzle.max - c.nozzle.min)
  const tested = d.inherited('nozzle')
  const held = label && tested !== undefined && Math.min(label.max, Math.max(label.min, tested))
  return [
    card(
      c.nozzle.start,
      `${c.name} usually starts at ${quantity(c.nozzle.start, '°C')} in ${c.nozzle.min}–${c.nozzle.max} °C.`,
    ),
    label &&
      (typeof held === 'number'
        ? offer(
            'label',
            held,
            held === tested
              ? `The relative's tested ${quantity(tested, '°C')} lies within the label's ${label.min}–${label.max} °C. Unproven on this roll.`
              : `Nearest to the relative's tested ${quantity(tested!, '°C')} within the label's ${label.min}–${label.max} °C.`,
          )
        : offer(
            'label',
            label.min + share * (label.max - label.min),
            `${figure(share * 100, 0)} % of the way up the label's ${label.min}–${label.max} °C, where the family's start lies in its own range. A tower will find the best.`,
          )),
  ]
}

const bedOffers =
  (which: 'first' | 'rest'): Rule =>
  (d) => {
    const { card: c, filament: f, machine: m } = d
    const key = which === 'first' ? 'bedFirst' : 'bed'
    const label = f.label.bed
    const dispute = decideDispute('abs-bed', m, f) ?? decideDispute('soft-bed', m, f)
    const wanted = dispute ? dispute.value(which === 'first' ? c.bed.first : c.bed.rest) : c.bed[which]
    const base = d.inherited(key) ?? wanted
    const inside = label ? Math.min(label.max, Math.max(label.min, base)) : base
    return [
      card(
        wanted,
        `${c.name} wants ${quantity(wanted, '°C')} on the ${which === 'first' ? 'first layer' : 'rest'}.${dispute ? ` ${dispute.because}` : ''}`,
      ),
      label &&
        offer(
          'label',
          inside,
          inside === base
            ? `${quantity(base, '°C')} lies within the label's ${label.min}–${label.max} °C.`
            : `Nearest to ${quantity(base, '°C')} within the label's ${label.min}–${label.max} °C.`,
        ),
    ]
  }

const hundred =
  (what: string): Rule =>
  () => [practice(100, `${what} starts at 100 % and moves only after a test.`)]
const constant =
  (value: SettingValue, words: string): Rule =>
  () => [practice(value, words)]
/** Layer height of each grade against the nozzle. Common practice: 0.12, 0.20 and 0.28 from a 0.4 mm nozzle. */
const GRADE_SHARE: Record<Grade, number> = { fine: 0.3, standard: 0.5, coarse: 0.7 }
const GRADE_WORDS: Record<Grade, string> = {
  fine: 'Three tenths',
  standard: 'Half',
  coarse: 'Seven tenths',
}

/** Retraction for a roll softer or harder than its card: in proportion to hardness. Common practice, no source. */
function softened(start: number, c: MaterialCard, f: Filament): number {
  if (c.shore === null || f.shore === null || f.shore === c.shore) return start
  return Math.max(0.1, Math.min(1.5 * start, start * (1 + (f.shore - c.shore) / 20)))
}

/** Seconds an outer-wall bead needs to set. */
function beadCooling(machine: Machine, c: MaterialCard, n: (key: SettingKey) => number): number {
  return coolingTime({
    nozzle: n('nozzle'),
    target: c.solidAt,
    air: machine.frame === 'enclosed' ? 40 : 30,
    width: n('outerWidth'),
    height: n('layerHeight'),
    density: c.density,
    heatCapacity: c.heatCapacity,
    coefficient: fanCoefficient(n('fan') / 100, machine.fan.strength),
  })
}

const RULES: Record<SettingKey, Rule> = {
  nozzleFirst: (d) => {
    const rest = d.number('nozzle')
    return [computed(rest, 'Same as the rest: hot enough is hot enough, and one thing less to change.')]
  },
  nozzle: nozzleOffers,
  bedFirst: bedOffers('first'),
  bed: bedOffers('rest'),
  chamber: ({ card: c, machine: m }) => [
    m.chamber === null
      ? computed(0, 'This machine has no chamber heater.')
      : card(
          c.wantsEnclosure ? Math.min(60, m.chamber) : 0,
          c.wantsEnclosure ? `${c.name} splits in cold air.` : `${c.name} needs no warm chamber.`,
        ),
  ],

  diameter: ({ filament: f }) => {
    const facts = diameterFacts(f)
    return [
      offer('label', f.diameter, `Nominal ${quantity(f.diameter, 'mm')}.`),
      facts &&
        offer(
          'measured',
          facts.mean,
          `Mean of ${facts.count} ${facts.count === 1 ? 'place' : 'places'}, spread ${quantity(facts.spread, 'mm', 3)}${facts.ovality === null ? '' : `, ovality up to ${quantity(facts.ovality, 'mm', 3)}`}.`,
        ),
    ]
  },
  meltCap: ({ card: c, machine: m }) => {
    const cap = meltCap(c.meltRate, m.nozzle)
    return [
      card(c.meltRate, `${c.name} through 0.4 mm of brass on a usual hot end, from memory.`),
      m.nozzle.diameter !== 0.4 || m.nozzle.material === 'hardened'
        ? computed(
            cap,
            `Scaled to ${figure(m.nozzle.diameter)} mm of ${m.nozzle.material === 'hardened' ? 'hardened steel, which conducts less' : 'brass'}. Common practice, no source. A melt-rate run finds the real cap.`,
          )
        : null,
    ]
  },
  density: ({ card: c }) => [card(c.density, `${c.name}, from memory.`)],
  flow: hundred('Flow'),
  flowFirst: hundred('First-layer flow'),
  flowOuter: hundred('Outer-wall flow'),
  flowInner: hundred('Inner-wall flow'),
  flowSolid: hundred('Solid-fill flow'),
  flowSparse: hundred('Sparse-fill flow'),
  flowBridge: hundred('Bridge flow'),
  flowOverRaft: constant(90, 'Less of it lets the raft go.'),

  retract: ({ card: c, machine: m, filament: f }) => {
    const dispute = decideDispute('soft-retraction', m, f)
    if (dispute) return [card(dispute.side === 1, dispute.because)]
    return [
      card(
        true,
        `${c.name} on a ${m.drive.kind === 'tube' ? 'guide tube' : 'direct drive'} wants a pull-back.`,
      ),
    ]
  },
  retractLength: (d) => {
    const { card: c, machine: m, filament: f } = d
    if (m.drive.kind === 'direct') {
      const start = softened(c.retraction.direct, c, f)
      return [
        card(
          c.retraction.direct,
          `${c.name} on a direct drive starts at ${quantity(c.retraction.direct, 'mm')}.`,
        ),
        start !== c.retraction.direct
          ? computed(
              start,
              `This roll is ${f.shore}A and the card assumes ${c.shore}A: softer filament is pulled back less. Common practice, no source.`,
            )
          : null,
      ]
    }
    if (c.retraction.tube === null)
      return [
        practice(
          2,
          'If retraction is switched on at all for soft filament on a tube, 2 mm is the most to begin with.',
        ),
      ]
    // 10 mm per metre of tube + 1 mm (common practice), leaned by what the card says for 400 mm.
    const start = ((10 * m.drive.tubeLength) / 1000 + 1) * (c.retraction.tube / 5)
    return [
      card(c.retraction.tube, `${c.name} starts at ${quantity(c.retraction.tube, 'mm')} on a 400 mm tube.`),
      // a length tested on this drive says more than the rule of thumb
      d.inherited('retractLength') === undefined
        ? computed(
            start,
            `10 mm per metre of the ${quantity(m.drive.tubeLength, 'mm')} tube and 1 mm for the drive, leaned to ${c.name}. Common practice, no source.`,
          )
        : null,
    ]
  },
  retractSpeed: ({ card: c, machine: m }) => [
    c.flexible
      ? practice(20, 'Soft filament is pulled slowly.')
      : practice(
          m.drive.kind === 'tube' ? 40 : 35,
          m.drive.kind === 'tube' ? 'Tubes take 25–50 mm/s.' : 'Short pulls need no hurry.',
        ),
  ],
  restartExtra: constant(0, 'Nothing extra until starts look starved.'),
  zLift: constant(0, 'No lift until the nozzle is seen to catch.'),
  minTravel: (d) => [
    practice(
      Math.max(1, d.machine.nozzle.diameter * 4),
      'Hops under about four nozzle widths rarely string.',
    ),
  ],
  wipe: (d) => [practice(d.machine.nozzle.diameter, 'One nozzle width hides the end of a loop.')],
  earlyStop: constant(0, 'Off until a seam test asks for it.'),
  pressureCompensation: constant(
    0,
    'Off until the lines test has been printed: a wrong value is worse than none.',
  ),

  fanOffLayers: ({ card: c }) => [card(c.fan.offLayers, `${c.name}: fan off while the base takes hold.`)],
  fanRampLayers: constant(1, 'Full duty on the first layer with fan.'),
  fan: ({ card: c, machine: m, filament: f }) => {
    if (!m.fan.present) return [computed(0, 'This machine has no part fan.')]
    const dispute = decideDispute('soft-fan', m, f) ?? decideDispute('gloss-fan', m, f)
    const duty = dispute ? dispute.value(c.fan.rest) : c.fan.rest
    return [card(duty, `${c.name} wants ${duty} % after the base.${dispute ? ` ${dispute.because}` : ''}`)]
  },
  fanOverhang: (d) => [
    d.machine.fan.present
      ? card(
          Math.max(d.card.fan.overhang, d.number('fan')),
          `${d.card.name} bears ${Math.max(d.card.fan.overhang, d.number('fan'))} % on overhangs.`,
        )
      : computed(0, 'This machine has no part fan.'),
  ],
  fanBridge: (d) => [
    d.machine.fan.present
      ? card(d.number('fanOverhang'), `As on overhangs: ${d.number('fanOverhang')} %.`)
      : computed(0, 'This machine has no part fan.'),
  ],
  minLayerTime: (d) => {
    const c = d.card
    const seconds = beadCooling(d.machine, c, (k) => d.number(k))
    const held = Math.min(20, Math.max(4, seconds))
    return [
      practice(5, 'About 5 s keeps the finish even.'),
      d.inherited('minLayerTime') !== undefined
        ? null
        : computed(
            held,
            `A bead falls from ${quantity(d.number('nozzle'), '°C')} to ${quantity(c.solidAt, '°C')} in ${quantity(seconds, 's', 1)} with the fan at ${d.number('fan')} %${held === seconds ? '' : `; held within 4–20 s`}.`,
          ),
    ]
  },
  speedFloor: (d) => [
    practice(
      Math.min(15, Math.round(d.number('outerSpeed') * 0.6)),
      'A floor of 15 mm/s keeps the change of speed small.',
    ),
  ],

  firstHeight: (d) => {
    const { residual, levelling } = d.machine.bed
    const layer = d.number('layerHeight')
    const most = 0.75 * d.machine.nozzle.diameter
    const start = practice(
      Math.min(
        most,
        levelling === 'screws' ? Math.max(layer, 0.24 * (d.machine.nozzle.diameter / 0.4)) : layer,
      ),
      levelling === 'screws'
        ? 'A little thicker than the rest on a hand-levelled bed.'
        : 'As the other layers on a probed bed.',
    )
    if (residual === null || d.inherited('firstHeight') !== undefined) return [start]
    const needed = Math.min(most, Math.max(layer, 2 * residual))
    return [
      start,
      computed(
        needed,
        `At least twice the ${quantity(residual, 'mm')} left after levelling, and no thinner than the other layers.`,
      ),
    ]
  },
  firstWidth: (d) => [
    practice(d.machine.nozzle.diameter * 1.2, '120 % of the nozzle grips well without losing details.'),
  ],
  firstSpeed: (d) => {
    const outer = d.number('outerSpeed')
    const value = d.card.flexible ? Math.max(5, outer / 2) : Math.min(30, Math.max(20, outer / 2))
    return d.capped(
      'firstSpeed',
      'flowFirst',
      Math.min(value, outer),
      d.number('firstWidth'),
      'Half the outer wall’s speed, between 20 and 30 mm/s for rigid plastic. Common practice, no source.',
      d.number('firstHeight'),
    )
  },
  zOffset: constant(0, 'Found on the machine with the first-layer test.'),
  slowZoneHeight: constant(0, 'Only for parts that start as many small islands.'),
  slowZoneSpeed: (d) => [practice(Math.min(20, d.number('firstSpeed')), 'No faster than the first layer.')],

  skirtLoops: constant(2, 'Two loops prime the nozzle.'),
  brimLines: ({ card: c, machine: m }) => [
    c.flexible
      ? practice(0, 'A brim welds onto soft plastic.')
      : c.wantsEnclosure && m.frame === 'open'
        ? practice(
            12,
            `${c.name} shrinks and this frame is open: 12 lines for large parts, fewer for small ones.`,
          )
        : practice(0, 'No brim until corners lift.'),
  ],
  brimWidth: (d) => [practice(d.number('firstWidth'), 'As the first layer’s lines.')],
  brimGap: constant(0, 'Joined to the part.'),
  cornerTabs: constant(0, 'None until corners lift.'),
  raft: ({ machine: m, filament: f }) => {
    const dispute = decideDispute('raft', m, f)
    return [
      practice(dispute?.side === 1, dispute?.because ?? 'A raft costs time, grams and a rough underside.'),
    ]
  },
  raftBottomLayers: constant(1, 'One thick layer holds the bed.'),
  raftTopLayers: constant(2, 'Two or three make an even floor.'),
  raftMargin: constant(5, '5 mm; 10 is plenty.'),
  raftGap: (d) => [
    practice(d.number('layerHeight') * 0.75, 'About three quarters of a layer lets go by hand.'),
  ],
  raftBottomWidth: (d) => [practice(d.machine.nozzle.diameter * 3, '3 to 3.5 times the nozzle.')],
  raftBottomSpeed: (d) =>
    d.capped(
      'raftBottomSpeed',
      'flow',
      Math.min(8, d.number('firstSpeed')),
      d.number('raftBottomWidth'),
      'About 8 mm/s: these lines are thick. Common practice, no source.',
      d.number('firstHeight'),
    ),
  raftDensity: constant(60, 'More grips harder and is harder to remove.'),
  raftTopWidth: (d) => [practice(d.number('fillWidth'), 'As other fill: an even floor.')],
  raftTopSpeed: (d) => [
    practice(Math.min(d.number('firstSpeed'), d.number('solidSpeed')), 'As slow as a first layer.'),
  ],
  raftTopDensity: constant(100, 'Closed, so that the part stands on an even floor.'),
  raftCrossing: constant(90, 'Lines of the part lie across the raft’s top lines.'),
  supportGap: (d) => [practice(d.number('layerHeight'), 'One layer of air lets go and still carries.')],
  draughtWall: ({ card: c, machine: m }) => [
    c.wantsEnclosure && m.frame === 'open'
      ? practice(1, `${c.name} splits in moving air and this frame is open.`)
      : practice(0, 'Not needed here.'),
  ],

  layerHeight: (d) => {
    const step = fullStep(d.machine)
    const nozzle = d.machine.nozzle.diameter
    const share = GRADE_SHARE[d.grade]
    const wanted = share * nozzle
    const onStep = Math.max(step, Math.floor(wanted / step + 1e-6) * step)
    const height = onStep <= 0.75 * nozzle && onStep >= 0.04 ? onStep : Math.max(0.04, wanted)
    return [
      practice(wanted, `${GRADE_WORDS[d.grade]} of the nozzle.`),
      computed(
        height,
        height === onStep
          ? `The multiple of the screw's full step (${quantity(step, 'mm', 4)}) next under ${GRADE_WORDS[d.grade].toLowerCase()} of the nozzle.`
          : `No multiple of the screw's full step (${quantity(step, 'mm', 4)}) fits this nozzle.`,
      ),
    ]
  },
  outerWidth: (d) => [
    d.filament.family === 'pla-silk'
      ? practice(d.machine.nozzle.diameter * 1.25, 'Silk shows best with lines of about 125 % of the nozzle.')
      : practice(d.machine.nozzle.diameter * 1.125, 'A little wider than the nozzle presses lines together.'),
  ],
  innerWidth: (d) => [practice(d.number('outerWidth'), 'As the outer wall.')],
  fillWidth: (d) => [practice(d.number('outerWidth'), 'As the outer wall.')],
  wallCount: (d) => [
    practice(Math.max(2, Math.round(1.2 / d.number('outerWidth'))), 'Walls of about 1.2 mm.'),
  ],
  topLayers: (d) => [
    practice(Math.max(3, Math.ceil(0.8 / d.number('layerHeight'))), 'About 0.8 mm closes a top.'),
  ],
  bottomLayers: (d) => [practice(Math.max(3, Math.ceil(0.6 / d.number('layerHeight'))), 'About 0.6 mm.')],
  sparseDensity: ({ card: c }) => [
    practice(c.flexible ? 15 : 20, c.flexible ? 'Less is softer.' : 'Enough for most parts.'),
  ],
  wallOrder: constant('inside-first', 'Bears steep overhangs; outside first measures truer.'),
  seamPlace: ({ machine: m, filament: f }) => {
    const dispute = decideDispute('seam-place', m, f)!
    return [practice(dispute.side === 1 ? 'scattered' : 'tucked', dispute.because)]
  },
  seamDirection: constant(90, 'The back, where a machine is rarely looked at.'),

  outerSpeed: (d) =>
    d.capped(
      'outerSpeed',
      'flowOuter',
      d.card.speed.outer,
      d.number('outerWidth'),
      `${d.card.name} shows a good face at ${quantity(d.card.speed.outer, 'mm/s')}.`,
    ),
  innerSpeed: (d) =>
    d.capped(
      'innerSpeed',
      'flowInner',
      d.card.speed.inner,
      d.number('innerWidth'),
      `${d.card.name}: ${quantity(d.card.speed.inner, 'mm/s')} where nobody looks.`,
    ),
  solidSpeed: (d) =>
    d.capped(
      'solidSpeed',
      'flowSolid',
      Math.min(d.number('innerSpeed'), d.card.speed.outer),
      d.number('fillWidth'),
      'No faster than the face: gaps in solid fill show.',
    ),
  topSpeed: (d) =>
    d.capped(
      'topSpeed',
      'flowSolid',
      d.card.speed.top ?? Math.round(d.card.speed.outer * 0.75),
      d.number('fillWidth'),
      'The last layer is the one people see.',
    ),
  sparseSpeed: (d) =>
    d.capped(
      'sparseSpeed',
      'flowSparse',
      d.card.flexible ? d.number('innerSpeed') : Math.round(d.number('innerSpeed') * 1.33),
      d.number('fillWidth'),
      d.card.flexible
        ? 'As the inner walls: soft filament wants one speed.'
        : 'A third faster than inner walls. Common practice, no source.',
    ),
  bridgeSpeed: (d) => [
    d.card.speed.bridge !== undefined
      ? card(
          Math.min(d.card.speed.bridge, d.number('outerSpeed')),
          `${d.card.name} bridges at ${d.card.speed.bridge} mm/s.`,
        )
      : practice(d.number('outerSpeed') / 2, 'Half the outer wall or slower.'),
  ],
  smallLoopSpeed: (d) => [practice(d.number('outerSpeed') / 2, 'Half the outer wall.')],
  smallLoopLength: (d) => [
    practice(Math.PI * 20 * d.machine.nozzle.diameter, 'Around holes of about twenty nozzle widths across.'),
  ],
  travelSpeed: (d) => [practice(d.machine.frame === 'open' ? 150 : 200, 'Fast travels leave ooze no time.')],
  outerAcceleration: (d) => [
    practice(
      d.machine.frame === 'open' ? 800 : 2000,
      d.machine.frame === 'open'
        ? 'An open frame rings early.'
        : 'A stiff frame bears 2000 mm/s² on the face.',
    ),
  ],
  innerAcceleration: (d) => [
    practice(d.machine.frame === 'open' ? 1000 : 2500, 'A little more where ripples do not show.'),
  ],
  travelAcceleration: (d) => [practice(d.machine.frame === 'open' ? 1200 : 3000, 'Travels may be brisk.')],
  firstAcceleration: (d) => [
    practice(Math.min(d.number('outerAcceleration'), 500), 'Gentle: fresh lines hold on to little.'),
  ],
  cornerChange: ({ machine: m }) => {
    const { corner, acceleration } = m.limits
    return corner.kind === 'instant-change'
      ? [computed(corner.limit, 'What the machine is set to.')]
      : [
          computed(
            squareCornerSpeed(corner.deviation, acceleration),
            'Speed through a square corner that the junction deviation comes to. This machine keeps the other rule.',
          ),
        ]
  },
  junctionDeviation: ({ machine: m }) => {
    const { corner, acceleration } = m.limits
    return corner.kind === 'junction-deviation'
      ? [computed(corner.deviation, 'What the machine is set to.')]
      : [
          computed(
            squareCornerDeviation(corner.limit, acceleration),
            'What gives a square corner the same speed. This machine keeps the other rule.',
          ),
        ]
  },

  contourOffset: constant(0, 'Zero until a size plate is measured.'),
  holeOffset: constant(0, 'Zero until a size plate is measured.'),
  footTrim: constant(0, 'Zero until the base is seen to flare.'),
  scaleX: hundred('Scale'),
  scaleY: hundred('Scale'),
  scaleZ: hundred('Scale'),
}

/**
 * Derives a whole recipe: every setting of the registry with its value, source, reason and the stack of
 * what each source said. Pure and total: no setting is left blank.
 *
 * Authority, weakest first: material card, tested relative, label, computed, measured, mend from a case,
 * set by hand; the machine's limit clips the winner.
 * @throws Error when a rule is missing or two settings depend on each other (a fault of the registry)
 */
export function deriveRecipe({
  machine,
  filament,
  pins = {},
  relative = {},
  grade = 'standard',
}: DeriveInput): RecipeValues {
  const d = new Derivation(machine, filament, pins, relative, grade)
  return Object.fromEntries(SETTING_KEYS.map((key) => [key, d.resolve(key)])) as RecipeValues
}

/** The pins inside a derived recipe: what a later derivation has to keep. */
export function pinsOf(values: RecipeValues): Pins {
  const pins: Pins = {}
  for (const key of SETTING_KEYS) {
    const r = values[key]
    const top = r?.stack.at(-1)
    if (!top || (top.source !== 'hand' && top.source !== 'mend' && top.source !== 'measured')) continue
    if (top.source === 'measured' && key === 'diameter') continue // read off the roll each time
    pins[key] = {
      value: top.value,
      source: top.source,
      words: top.words,
      ...(r.plusMinus !== undefined && { plusMinus: r.plusMinus }),
      ...(r.at !== undefined && { at: r.at }),
    }
  }
  return pins
}

/** What a derived recipe took from a relative: what a later derivation has to offer again. */
export function inheritedIn(values: RecipeValues): Inherited {
  const out: Inherited = {}
  for (const key of SETTING_KEYS) {
    const o = values[key]?.stack.find((s) => s.source === 'relative')
    if (o) out[key] = { value: o.value, words: o.words }
  }
  return out
}

/** A recipe's base with its fine and coarse variants: each holds its own pins and what differs from the base. */
export interface GradedRecipe {
  values: RecipeValues
  variants: Record<Variant, { pins: Pins; values: Partial<RecipeValues> }>
}

/**
 * Settings that change with the layer height, the height itself first: what a variant may override.
 * Read from what the derivation asked for, not from a list.
 */
export function gradedKeys(values: RecipeValues): SettingKey[] {
  const found = new Set<SettingKey>(['layerHeight'])
  for (let grew = true; grew;) {
    grew = false
    for (const key of SETTING_KEYS) {
      if (found.has(key) || !values[key]?.follows?.some((f) => found.has(f))) continue
      found.add(key)
      grew = true
    }
  }
  return SETTING_KEYS.filter((k) => found.has(k))
}

/**
 * Derives a recipe with its variants. A variant inherits everything the person pinned on the base but what its
 * own layer height decides, and lays its own pins over it.
 */
export function deriveGraded(
  input: Omit<DeriveInput, 'grade'> & { variantPins?: Partial<Record<Variant, Pins>> },
): GradedRecipe {
  const { variantPins, ...base } = input
  const values = deriveRecipe(base)
  const { layerHeight: _, ...inherited } = base.pins ?? {}
  const variant = (grade: Variant) => {
    const pins = variantPins?.[grade] ?? {}
    const own = deriveRecipe({ ...base, pins: { ...inherited, ...pins }, grade })
    const apart = SETTING_KEYS.filter(
      (k) => own[k].value !== values[k].value || own[k].words !== values[k].words || pins[k],
    )
    return {
      pins,
      values: Object.fromEntries(apart.map((k) => [k, own[k]])) as Partial<RecipeValues>,
    }
  }
  return { values, variants: { fine: variant('fine'), coarse: variant('coarse') } }
}

/** The whole set of values of one grade. */
export function valuesOf(recipe: GradedRecipe, grade: Grade): RecipeValues {
  return grade === 'standard' ? recipe.values : { ...recipe.values, ...recipe.variants[grade].values }
}

/** The bare values of a recipe. */
export function plainValues(values: RecipeValues): Record<SettingKey, SettingValue> {
  return Object.fromEntries(SETTING_KEYS.map((k) => [k, values[k].value])) as Record<SettingKey, SettingValue>
}

export interface Difference {
  key: SettingKey
  from: SettingValue
  to: SettingValue
}

/** Settings whose values differ between two recipes, in registry order. */
export function differences(
  a: Record<SettingKey, { value: SettingValue }>,
  b: Record<SettingKey, { value: SettingValue }>,
): Difference[] {
  return SETTING_KEYS.filter((k) => a[k]?.value !== b[k]?.value).map((key) => ({
    key,
    from: a[key]?.value,
    to: b[key]?.value,
  }))
}

/** Seconds an outer-wall bead of a recipe needs to set before the next layer may lie on it. */
export function coolingTimeOf(
  machine: Machine,
  filament: Filament,
  values: Record<SettingKey, { value: SettingValue }>,
): number {
  return beadCooling(machine, cardOf(filament.family), (k) => Number(values[k].value))
}

/** What one kind of line asks of the hot end and the drive. */
export interface FeatureLoad {
  /** The setting that holds its speed. */
  key: SettingKey
  label: string
  /** mm, mm, mm/s */
  width: number
  height: number
  speed: number
  /** Cross-section of the bead, mm². */
  area: number
  /** mm³/s */
  rate: number
  /** Filament through the drive, mm/s. */
  feed: number
  /** Rate against the melt cap, 1 = at the cap. */
  share: number
  /** Fastest speed under the cap, mm/s. */
  cap: number
}

const FEATURES: { key: SettingKey; label: string; width: SettingKey; flow: SettingKey; first?: true }[] = [
  { key: 'firstSpeed', label: 'First layer', width: 'firstWidth', flow: 'flowFirst', first: true },
  { key: 'outerSpeed', label: 'Outer wall', width: 'outerWidth', flow: 'flowOuter' },
  { key: 'innerSpeed', label: 'Inner walls', width: 'innerWidth', flow: 'flowInner' },
  { key: 'solidSpeed', label: 'Solid fill', width: 'fillWidth', flow: 'flowSolid' },
  { key: 'topSpeed', label: 'Top surface', width: 'fillWidth', flow: 'flowSolid' },
  { key: 'sparseSpeed', label: 'Sparse fill', width: 'fillWidth', flow: 'flowSparse' },
]

/** Bead, melt rate and feed of every feature against the melt cap. Plain geometry. */
export function featureLoads(values: Record<SettingKey, { value: SettingValue }>): FeatureLoad[] {
  const n = (k: SettingKey) => Number(values[k].value)
  const cap = n('meltCap')
  const filament = filamentArea(n('diameter'))
  return FEATURES.map((f) => {
    const width = n(f.width)
    const height = n(f.first ? 'firstHeight' : 'layerHeight')
    const speed = n(f.key)
    const area = beadArea(width, height)
    const flow = (n('flow') / 100) * (n(f.flow) / 100)
    const rate = area * speed * flow
    return {
      key: f.key,
      label: f.label,
      width,
      height,
      speed,
      area,
      rate,
      feed: rate / filament,
      share: rate / cap,
      cap: speedAtMeltCap(width, height, cap, flow),
    }
  })
}

/** Melt rate each feature asks of the hot end, mm³/s. */
export function meltRates(
  values: Record<SettingKey, { value: SettingValue }>,
): { key: SettingKey; rate: number }[] {
  return featureLoads(values).map(({ key, rate }) => ({ key, rate }))
}

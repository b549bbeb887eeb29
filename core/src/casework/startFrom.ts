import { MACHINE_KINDS, type MachineKind, type MachineKindId } from '../machine/kinds'
import { CARDS, FAMILIES, type FamilyId } from '../material/cards'
import type { Reason } from '../quantity/reason'
import { medianHigh } from '../statistics/summary'
import type { PathReading } from '../toolpath/reading'
import type { ReadingContext } from '../toolpath/analysis'
import { caseReason } from './reasons'

/** A family that a file may be made for, by what it asks for. */
export interface LikelyFamily {
  family: FamilyId
  /** Chance against the other families, 0 to 1. */
  chance: number
}
/** What a path file alone says of the roll and the machine it was made for. */
export interface StartFromFile {
  /** The likeliest first. */
  families: LikelyFamily[]
  kind: MachineKindId
  /** The kind, with what the file asks of it. */
  machine: MachineKind
  /** What was taken from the file, and why the kind. */
  reasons: Reason[]
}

/**
 * How often a roll is of a family, before a file is read. Common practice, no source.
 */
const USUAL: Partial<Record<FamilyId, number>> = {
  pla: 50,
  petg: 20,
  abs: 7,
  'tpu-95a': 7,
  'pla-silk': 5,
  asa: 4,
  pa: 2,
  pc: 1.5,
  pp: 1,
  'tpu-85a': 1,
  peba: 0.5,
  hips: 0.5,
  pva: 0.5,
  pet: 0.5,
}
/** How far people's values lie from a card's, one standard deviation: °C of a bed, % of a fan. From memory. */
const BED_SD = 8
const FAN_SD = 30
/** °C by which a nozzle may lie beside its family's start at least. */
const NOZZLE_SD = 6
/** mm of pull-back from which on it is for a tube. Common practice, no source. */
const FOR_TUBE = 2.2
/** mm/s and mm/s² that only fast machines are asked for. Common practice, no source. */
const FAST = { speed: 150, acceleration: 4000 }
/** °C that hot ends and beds bear which are not made for more: no file is believed beyond. Common practice, no source. */
const BEARS = { nozzle: 300, bed: 120 }
const NOZZLES = [0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8, 1, 1.2]
/** Lines are a little wider than the nozzle. Common practice, no source. */
const WIDER = 1.12

const squared = (off: number, sd: number) => (off / sd) ** 2

/** How a file is read of which neither roll nor machine is known. */
export const UNKNOWN_PAIR: ReadingContext = {
  filamentDiameter: 1.75,
  density: CARDS.pla.density,
  nozzleDiameter: 0.4,
  limits: MACHINE_KINDS['open-direct'].body.limits,
}

/**
 * What a path file alone says of the roll and the machine it was made for: the family by its heat, bed and fan (independent
 * normal errors round each card, Bayes' rule with how common families are), the drive by the length of the pull-back, the
 * nozzle by the width of the lines; and a machine of that kind that can do what the file asks.
 */
export function startFrom(reading: PathReading): StartFromFile {
  const reasons: Reason[] = []
  const families = familiesOf(reading)
  if (reading.rest.nozzle !== null)
    reasons.push(
      caseReason('start-family', {
        family: families[0].family,
        nozzle: reading.rest.nozzle,
        bed: reading.rest.bed,
      }),
    )
  const { length } = reading.retraction
  const asked = Math.max(0, ...reading.layers.outerAsked.map((v) => v ?? 0))
  const acceleration = Math.max(reading.build.travelAcceleration ?? 0, reading.build.firstAcceleration ?? 0)
  const fast = asked >= FAST.speed || acceleration >= FAST.acceleration
  const tube = length !== null && length >= FOR_TUBE
  const reach = reading.box ? Math.max(reading.box.maxX, reading.box.maxY) : 0
  const kind: MachineKindId = tube
    ? reach > MACHINE_KINDS['open-tube'].body.bed.width
      ? 'large-open'
      : 'open-tube'
    : fast
      ? 'enclosed-fast'
      : 'open-direct'
  if (length !== null) reasons.push(caseReason(tube ? 'start-tube' : 'start-direct', { length }))
  if (!tube && fast) reasons.push(caseReason('start-fast', { speed: asked, acceleration }))
  const body = MACHINE_KINDS[kind].body
  const nozzle = nozzleOf(reading)
  if (nozzle !== null && nozzle !== body.nozzle.diameter)
    reasons.push(caseReason('start-nozzle', { nozzle, width: widthOf(reading)! }))
  const most = (values: readonly (number | null)[]) => Math.max(0, ...values.map((v) => v ?? 0))
  const hottest = { nozzle: most(reading.layers.nozzle), bed: most(reading.layers.bed) }
  for (const place of ['nozzle', 'bed'] as const)
    if (hottest[place] > BEARS[place])
      reasons.push(caseReason('start-too-hot', { place, asked: hottest[place], bears: BEARS[place] }))
  // no further than any machine goes
  const up = (value: number, step: number, top: number) => Math.min(top, Math.ceil(value / step) * step)
  const machine: MachineKind = {
    ...body,
    nozzle: { ...body.nozzle, diameter: nozzle ?? body.nozzle.diameter },
    // a file that was printed says what its machine can do
    bed: {
      ...body.bed,
      width: Math.max(body.bed.width, up(reading.box?.maxX ?? 0, 10, 2000)),
      depth: Math.max(body.bed.depth, up(reading.box?.maxY ?? 0, 10, 2000)),
    },
    height: Math.max(body.height, up(reading.height, 10, 3000)),
    limits: {
      ...body.limits,
      nozzle: Math.max(body.limits.nozzle, up(hottest.nozzle, 10, BEARS.nozzle)),
      bed: Math.max(body.limits.bed, up(hottest.bed, 10, BEARS.bed)),
      speed: Math.max(body.limits.speed, up(Math.max(asked, reading.travel.speed ?? 0), 10, 2000)),
      travelAcceleration: Math.max(body.limits.travelAcceleration, reading.build.travelAcceleration ?? 0),
    },
  }
  return { families, kind, machine, reasons }
}

/** Families by how well a file's heat, bed and fan fit their cards. */
function familiesOf({ rest }: PathReading): LikelyFamily[] {
  const weighed = FAMILIES.filter((f) => f !== 'other').map((family) => {
    const { nozzle, bed, fan } = CARDS[family]
    const sd = Math.max(NOZZLE_SD, (nozzle.max - nozzle.min) / 4)
    const off =
      (rest.nozzle === null ? 0 : squared(rest.nozzle - nozzle.start, sd)) +
      (rest.bed === null ? 0 : squared(rest.bed - bed.rest, BED_SD)) +
      squared(100 * rest.fan - fan.rest, FAN_SD)
    return { family, weight: (USUAL[family] ?? 0.2) * (NOZZLE_SD / sd) * Math.exp(-off / 2) }
  })
  const all = weighed.reduce((s, w) => s + w.weight, 0)
  // a file for nothing that is known is of the usual
  return weighed
    .map(({ family, weight }) => ({ family, chance: all > 0 ? weight / all : family === 'pla' ? 1 : 0 }))
    .sort((a, b) => b.chance - a.chance)
}

/** mm of an outer line, the middle of all layers; null where there is none. */
function widthOf({ layers }: PathReading): number | null {
  const widths = layers.width.filter((w): w is number => w !== null)
  return widths.length ? medianHigh(widths) : null
}
function nozzleOf(reading: PathReading): number | null {
  const width = widthOf(reading)
  if (width === null) return null
  const off = (n: number) => Math.abs(Math.log(width / (WIDER * n)))
  return NOZZLES.reduce((best, n) => (off(n) < off(best) ? n : best))
}

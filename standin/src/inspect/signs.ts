import { normalStream, randomStream } from '@verimend/core/statistics'
import { polymerOf } from '../polymer'
import type { PrintedPart, SizeOfPart } from '../part'
import type { World } from '../world'
import { lookAt, worstOf, type Region, type Seen, type Worst } from './look'
import { packingOf } from './packing'

/** Everything there is of a part. */
export const WHOLE: Region = { x0: -1e4, x1: 1e4, y0: -1e4, y1: 1e4, z0: -1, z1: 1e4 }

/** 0 where nobody would notice, 1 where nobody would miss it. */
const between = (value: number, unseen: number, clear: number): number =>
  Math.max(0, Math.min(1, (value - unseen) / (clear - unseen)))

/** mm after which a line flows as evenly as it will. */
const SETTLES = 10
/** Share by which the time of a layer differs from the one before where something begins or ends there. */
const ANOTHER_LAYER = 0.12
/** mm³ of a bump that is called a blob. */
const LARGE = 0.16

interface Overall {
  part: PrintedPart
  world: World
  seen: Seen
  /** The same in the worst place that is large enough to be noticed. */
  local: Worst
  /** Plastic against the room for it. */
  packed: number
  /** Lines that lie on lines, and what came out at slow and fast ones. */
  slow: number
  fast: number
  /** Scatter of width and gloss from layer to layer, as shares, and the largest jump. */
  widths: number
  jump: number
  glossJump: number
  /** The same where a feature begins or ends. */
  featureGloss: number
  screw: number
  /** Share of layers with next to nothing in them. */
  missing: number
  /** What came out in the last quarter against the first. */
  late: number
  bumps: { size: number; large: number }
  dents: { size: number; count: number }
  lifted: number
  error: { x: number; y: number; z: number }
}

/** How an appearance follows from what a print became. Thresholds are what an eye or a thumb notices, from memory. */
const RULES = {
  'strings-thin': (o: Overall) => between(Math.log10(o.seen.threads + 1e-6), -1.35, -0.6),
  'strings-thick': (o: Overall) =>
    between(
      o.part.strings.filter((s) => s.volume > 0.09).length / Math.max(1, o.part.layers.length),
      0.15,
      0.9,
    ),
  'blobs-on-wall': (o: Overall) => between(o.bumps.large, 0.4, 1.6),
  'popping-or-steam': (o: Overall) => between(o.world.roll.moisture, 0.35, 0.7),
  'rough-foamy-surface': (o: Overall) => between(o.seen.foam, 0.1, 0.32),
  'nozzle-drips-idle': (o: Overall) => between(o.part.drools, 0.085, 0.17),
  'first-layer-not-sticking': (o: Overall) => between(0.62 - o.part.foot.holds, 0, 0.22),
  'first-layer-gaps': (o: Overall) => between(o.part.foot.open, 0.2, 0.6),
  'first-layer-ridges': (o: Overall) => between(o.part.foot.ridged, 0.2, 0.55),
  'first-layer-uneven': (o: Overall) => between(o.part.foot.uneven, 0.1, 0.22),
  'corners-lift': (o: Overall) => between(o.lifted, 0.12, 0.5),
  'part-breaks-loose': (o: Overall) => between(0.3 - o.part.foot.holds, 0, 0.15),
  'base-flare': (o: Overall) => between(o.part.foot.flare, 0.1, 0.22),
  'seam-blob': (o: Overall) => between(o.bumps.size, 0.06, 0.14),
  'seam-gap': (o: Overall) => between(o.dents.size, 0.045, 0.09),
  'bands-regular': (o: Overall) => between(o.screw, 0.014, 0.04),
  'bands-irregular': (o: Overall) => between(o.widths, 0.02, 0.06),
  'bands-at-feature-height': (o: Overall) => between(Math.max(o.jump / 0.05, o.featureGloss / 0.1), 0.7, 1.6),
  'bands-gloss': (o: Overall) => between(o.glossJump, 0.06, 0.16),
  'dull-finish': (o: Overall) => between(0.62 * polymerOf(o.world.family).shine - o.seen.gloss, 0.12, 0.26),
  ghosting: (o: Overall) => between(o.seen.ripples, 0.055, 0.12),
  'vertical-fine-ribs': (o: Overall) => between(o.world.frame.belt.amplitude, 0.012, 0.035),
  'waves-regular-height': (o: Overall) => between(o.world.drive.gear.amplitude, 0.012, 0.035),
  'outside-too-big': (o: Overall) => between(Math.max(o.error.x, o.error.y), 0.12, 0.22),
  'outside-too-small': (o: Overall) =>
    between(-Math.min(o.error.x, o.error.y) - 0.003 * longest(o), 0.12, 0.35),
  'error-grows-with-length': (o: Overall) =>
    between(Math.abs(worst(o)) / Math.max(20, longest(o)), 0.0045, 0.009),
  'error-constant': (o: Overall) =>
    between(Math.min(Math.abs(o.error.x), Math.abs(o.error.y)), 0.09, 0.2) *
    (Math.sign(o.error.x) === Math.sign(o.error.y) && Math.abs(o.error.x - o.error.y) < 0.06 ? 1 : 0),
  'one-axis-only': (o: Overall) =>
    between(Math.abs(o.error.x - o.error.y) - 0.006 * Math.abs(o.part.drawn.x - o.part.drawn.y), 0.12, 0.3),
  'not-square': (o: Overall) => between(Math.abs(o.world.frame.skew), 0.12, 0.35),
  'round-not-round': (o: Overall) => between(o.world.frame.loose, 0.06, 0.18),
  'height-wrong': (o: Overall) => between(Math.abs(o.error.z), 0.12, 0.35),
  'gaps-between-walls': (o: Overall) => between(0.965 - o.packed, 0, 0.05),
  'gaps-in-solid-fill': (o: Overall) => between(0.96 - o.packed, 0, 0.05),
  'top-rough-overfull': (o: Overall) => between(o.packed - 1.02, 0, 0.045),
  'weak-layers': (o: Overall) =>
    between(polymerOf(o.world.family).holds - 0.03 - (o.seen.bond ?? 1), 0, 0.08),
  'missing-layers': (o: Overall) => between(o.missing, 0.004, 0.03),
  'thinner-at-speed': (o: Overall) =>
    between(o.slow - o.fast, 0.04, 0.11) * between(0.985 - o.packed, 0, 0.025),
  'extruder-clicks': (o: Overall) => between(o.part.slips, 2, 15),
  'filament-ground': (o: Overall) => between(o.part.slips, 25, 120),
  'flow-stops-midprint': (o: Overall) => between(0.75 - o.late, 0, 0.3),
  'works-then-stops': (o: Overall) => between(0.92 - o.late, 0, 0.15) * (o.world.hotEnd.creeps > 0.2 ? 1 : 0),
  'sagging-overhangs': (o: Overall) => between(Math.max(o.seen.leans ?? 0, o.local.leans), 0.24, 0.42),
  'bridge-sags': (o: Overall) => between(Math.max(o.seen.spans ?? 0, o.local.spans), 0.52, 0.75),
  'tips-melt': (o: Overall) => between(Math.max(o.seen.soft, o.local.soft), 0.22, 0.5),
  'layers-shifted': (o: Overall) =>
    between(
      o.part.shifts.reduce((s, v) => s + Math.hypot(v.dx, v.dy), 0),
      0.1,
      0.4,
    ),
}
/** What can be seen, heard or felt of a part, in the trade's words. */
export type Appearance = keyof typeof RULES
export const APPEARANCES = Object.keys(RULES) as Appearance[]

/** mm of its uppermost layer. */
const layerOf = ({ layers }: PrintedPart) => (layers.at(-1)?.z ?? 0) - (layers.at(-2)?.z ?? 0)
const worst = (o: Overall) => (Math.abs(o.error.x) > Math.abs(o.error.y) ? o.error.x : o.error.y)
const longest = (o: Overall) => Math.max(o.part.drawn.x, o.part.drawn.y)

function overall(part: PrintedPart, world: World, meant: SizeOfPart): Overall {
  const { count, x0, y0, x1, y1, fed, layers } = part
  let [slow, slowWay, fast, fastWay, early, earlyWay, late, lateWay] = [0, 0, 0, 0, 0, 0, 0, 0]
  let settled = 0
  const rates = part.rate.slice(0, count).sort()
  const [lowRate, highRate] = [rates[Math.floor(count * 0.3)] ?? 0, rates[Math.floor(count * 0.85)] ?? 0]
  for (let i = 0; i < count; i++) {
    if (part.onBed[i]) continue
    const d = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    if (i < count / 4) {
      early += d * fed[i]
      earlyWay += d
    } else if (i > (3 * count) / 4) {
      late += d * fed[i]
      lateWay += d
    }
    if (i && Math.abs(part.rate[i] / part.rate[i - 1] - 1) > 0.15) settled = 0
    settled += d
    if (settled < SETTLES) continue
    if (part.rate[i] <= lowRate) {
      slow += d * fed[i]
      slowWay += d
    } else if (part.rate[i] >= highRate) {
      fast += d * fed[i]
      fastWay += d
    }
  }
  const upper = layers.filter((l) => l.z > 1)
  const mean = upper.reduce((s, l) => s + l.width, 0) / Math.max(1, upper.length)
  const steps = upper.slice(1).map((l, i) => ({
    width: Math.abs(l.width - upper[i].width),
    gloss: Math.abs(l.gloss - upper[i].gloss),
    // where a feature begins or ends a layer takes another time
    feature: Math.abs(l.seconds / Math.max(0.1, upper[i].seconds) - 1) > ANOTHER_LAYER,
  }))
  const features = steps.filter((s) => s.feature)
  const bumps = part.blobs.filter((b) => b.volume > 0)
  const dents = part.blobs.filter((b) => b.volume < 0)
  const size = (list: readonly { volume: number }[]) =>
    list.length ? Math.abs(list.reduce((s, b) => s + b.volume, 0)) / list.length : 0
  const share = (sum: number, way: number) => (way ? sum / way : 1)
  const dx = upper.map((l) => l.dx)
  const seen = lookAt(part, world, WHOLE)
  const whole = part.brokeOff === null ? meant : part.drawn
  return {
    part,
    world,
    seen,
    local: worstOf(part),
    packed: packingOf(part) ?? seen.fed,
    slow: share(slow, slowWay),
    fast: share(fast, fastWay),
    widths: Math.sqrt(upper.reduce((s, l) => s + (l.width - mean) ** 2, 0) / Math.max(1, upper.length)),
    jump: Math.max(0, ...features.map((s) => s.width)),
    glossJump: Math.max(0, ...steps.map((s) => s.gloss)),
    featureGloss: Math.max(0, ...features.map((s) => s.gloss)),
    screw: dx.length ? (Math.max(...dx) - Math.min(...dx)) / 2 : 0,
    missing: upper.filter((l) => l.width < 0.6).length / Math.max(1, upper.length),
    late: share(late, lateWay) / Math.max(0.1, share(early, earlyWay)),
    bumps: {
      size: size(bumps),
      large: bumps.filter((b) => b.volume > LARGE).length / Math.max(1, layers.length),
    },
    dents: { size: size(dents), count: dents.length / Math.max(1, layers.length) },
    lifted: Math.max(0, ...part.lifted.map((l) => l.by)),
    error: {
      x: part.came.x - whole.x,
      y: part.came.y - whole.y,
      // its layers are whole ones
      z: part.came.z - (Math.abs(whole.z - part.drawn.z) < layerOf(part) ? part.drawn.z : whole.z),
    },
  }
}

/**
 * How clearly each appearance is there, 0 to 1, before anybody looks.
 * @param meant mm that it should measure over all: its moves may make up for what is to come
 */
export function appearancesOf(
  part: PrintedPart,
  world: World,
  meant: SizeOfPart = part.drawn,
): Record<Appearance, number> {
  const o = overall(part, world, meant)
  return Object.fromEntries(APPEARANCES.map((a) => [a, RULES[a](o)])) as Record<Appearance, number>
}

/** A person who looks: how steady, and how often they miss, mistake or do not look. */
export interface Person {
  seed: number
  /** Scatter of a grade. */
  scatter: number
  /** Chance of missing what is clearly there, of seeing what is not, and of not looking at all. */
  misses: number
  mistakes: number
  skips: number
}
export const USUAL_PERSON: Person = { seed: 1, scatter: 0.35, misses: 0.05, mistakes: 0.004, skips: 0.15 }
export const STEADY_PERSON: Person = { seed: 1, scatter: 0, misses: 0, mistakes: 0, skips: 0 }

/** How much of it: not there, slight, clear. */
export type Level = 0 | 1 | 2

/** What a person says of each appearance, and nothing of those they did not look at. */
export function reportOf(
  strengths: Record<Appearance, number>,
  person: Person,
): Partial<Record<Appearance, Level>> {
  const random = randomStream(person.seed ^ 0x7a31)
  const normal = normalStream(random)
  const out: Partial<Record<Appearance, Level>> = {}
  for (const a of APPEARANCES) {
    const strength = strengths[a]
    const [look, wrong, by] = [random(), random(), 0.3 * person.scatter * normal()]
    // who looks for the fault that is clear does not skip it
    if (look < person.skips * (1 - strength)) continue
    const felt = strength + by
    const level: Level = felt < 0.35 ? 0 : felt < 0.7 ? 1 : 2
    out[a] = level === 0 ? (wrong < person.mistakes ? 1 : 0) : wrong < person.misses ? 0 : level
  }
  return out
}

/** A grade as a person gives it, whole. */
export function gradedBy(grade: number, person: Person, place: number): number {
  const normal = normalStream(randomStream(person.seed * 7919 + place * 104729))
  return Math.max(0, Math.min(4, Math.round(grade + person.scatter * normal())))
}

import { polymerOf } from '../polymer'
import type { World } from '../world'
import type { PrintedPart } from '../part'
import { jointGap } from './gap'
import { lookAt, type Region, type Seen } from './look'

/** What a place of a part can be judged by. */
export const ASPECTS = [
  'strings',
  'bonding',
  'overhang',
  'bridge',
  'detail',
  'surface',
  'corners',
  'evenness',
  'ripples',
  'sheet',
  'closed',
  'seam',
  'free',
] as const
export type Aspect = (typeof ASPECTS)[number]
/** 4 is flawless, 0 is useless. */
export const TOP = 4

/** Falls by one for each step past what nobody would see. */
const past = (value: number, unseen: number, step: number): number => TOP - Math.max(0, value - unseen) / step
/** The same for what is felt by its ratio: falls by one each time it is so many times as much. */
const pastRatio = (value: number, unseen: number, times: number): number =>
  value <= unseen ? TOP : TOP - Math.log(value / unseen) / Math.log(times)

/**
 * How good something looks or feels, 0 to 4, before anybody is unsure of it. Each rule is a rule of this simulation: what a
 * thumb or an eye notices, from memory.
 */
const RULES: Record<Exclude<Aspect, 'free'>, (s: Seen, gloss: number) => number | null> = {
  strings: (s) => pastRatio(s.threads, 0.014, 2.2),
  bonding: (s) => (s.bond === null ? null : past(0.7 - s.bond, 0, 0.05)),
  overhang: (s) => (s.leans === null ? null : past(s.leans, 0.16, 0.06)),
  bridge: (s) => (s.spans === null ? null : past(s.spans, 0.34, 0.11)),
  detail: (s) => past(s.soft, 0.04, 0.11),
  surface: (s, full) =>
    past(full - s.gloss, 0.06, 0.09) -
    Math.max(0, s.rough - 0.032) / 0.025 -
    Math.max(0, s.unevenGloss - 0.03) / 0.05 -
    4 * s.foam,
  corners: (s) => pastRatio(s.corners, 0.03, 2.3),
  evenness: (s) => past(s.fedUneven, 0.05, 0.07),
  ripples: (s) => pastRatio(s.ripples, 0.035, 1.8),
  sheet: (s) =>
    s.covers === null ? null : Math.min(past(1.09 - s.covers, 0, 0.05), past(s.covers, 1.2, 0.07)),
  closed: (s) =>
    s.fills === null ? null : Math.min(past(0.955 - s.fills, 0, 0.022), past(s.fills, 1.0, 0.03)),
  seam: (s) => pastRatio(s.starts, 0.022, 1.7),
}

/** Gloss a plastic has where it is printed as it wants to be. From memory. */
const FULL_GLOSS = 0.62

/**
 * How good a place of a part is in each respect, 0 to 4, as it is; a respect of which there is nothing to be seen is left out.
 */
export function gradesOf<A extends Aspect>(
  part: PrintedPart,
  world: World,
  region: Region,
  aspects: readonly A[],
): Partial<Record<A, number>> {
  const grades: Partial<Record<A, number>> = {}
  const gloss = FULL_GLOSS * polymerOf(world.family).shine
  let seen: Seen | undefined
  for (const aspect of aspects) {
    const raw =
      aspect === 'free'
        ? playGrade(jointGap(part, world, region))
        : RULES[aspect as Exclude<A, 'free'>]((seen ??= lookAt(part, world, region)), gloss)
    if (raw !== null) grades[aspect] = Math.min(TOP, Math.max(0, raw))
  }
  return grades
}

/** How a joint with so much gap moves: under nothing it is fused. */
const playGrade = (gap: number | null): number | null => (gap === null ? null : (gap + 0.02) / 0.045)

import { normalStream, randomStream } from '../../src/statistics/random'
import { TOP_GRADE } from '../../src/trials/criteria'

/**
 * Towers as they might come out, by curves that no fit of ours is made of: what every criterion is worth over the bands, in
 * grades, and a person who grades it with a hand of their own.
 */
export const TRUTHS = ['skewed', 'sharp', 'plateau', 'monotone', 'conflicting', 'nothing'] as const
export type Truth = (typeof TRUTHS)[number]

export interface GradedTower {
  /** Grades of each criterion, band by band from the lowest value on; null where nothing was noted. */
  grades: (number | null)[][]
  /** Mean of what the criteria are really worth at a place between the bands, in grades. */
  worth: (band: number) => number
  /** The best that is reached, and where. */
  best: number
  bestAt: number
}

/** What one criterion is worth at a band. */
type Curve = (band: number) => number

const clipped = (v: number) => Math.min(TOP_GRADE, Math.max(0, v))

/** The curves of one tower. `fall` is how many grades the worst end is off. */
function curvesOf(
  truth: Truth,
  bands: number,
  criteria: number,
  fall: number,
  random: () => number,
): Curve[] {
  const last = bands - 1
  const at = last * (0.25 + 0.5 * random())
  const top = 3.4 + 0.6 * random()
  const each = (curve: (k: number) => Curve) => Array.from({ length: criteria }, (_, k) => curve(k))
  const far = Math.max(at, last - at)
  switch (truth) {
    case 'skewed': {
      const up = random() < 0.5
      return each((k) => (u) => {
        const gentle = Math.max(0, up ? at - u : u - at) / far
        const steep = Math.max(0, up ? u - at : at - u) / far
        return top - fall * (0.7 + 0.15 * (k % 3)) * (gentle + (steep > 0 ? 0.25 : 0) + 1.4 * steep ** 1.4)
      })
    }
    case 'sharp':
      return each(() => (u) => top - fall * (1 - Math.exp(-(((u - at) / 1.3) ** 2))))
    case 'plateau': {
      const half = 0.18 * last
      return each(() => (u) => top - Math.min(fall, fall * 0.8 * Math.max(0, Math.abs(u - at) - half)))
    }
    case 'monotone': {
      const up = random() < 0.5
      const which = Math.floor(random() * criteria)
      return each((k) => (u) => {
        const way = (up ? last - u : u) / last
        return top - (k === which ? 1.2 : 0.6) * fall * way
      })
    }
    case 'conflicting':
      return each((k) => (u) => {
        const z = 1 / (1 + Math.exp(-3 * (k % 2 ? u - at - 1 : at - u - 1)))
        return k < 4 ? top - 1.3 * fall * z : top
      })
    case 'nothing': {
      const level = each(() => () => 0).map(() => 1.5 + 2.4 * random())
      return level.map((v) => () => v)
    }
  }
}

/**
 * A tower graded by one person.
 * @param scatter how far their grades of one thing scatter, in grades
 */
export function gradedTower(
  truth: Truth,
  {
    bands,
    criteria,
    fall,
    scatter,
    seed,
  }: { bands: number; criteria: number; fall: number; scatter: number; seed: number },
): GradedTower {
  const random = randomStream(seed)
  const normal = normalStream(random)
  const curves = curvesOf(truth, bands, criteria, fall, random)
  const worth = (u: number) => curves.reduce((s, c) => s + clipped(c(u)), 0) / criteria
  const lenient = 0.3 * normal()
  const odd = Array.from({ length: bands }, () => 0.15 * normal())
  const missing = Array.from({ length: bands }, () => random() < 0.04)
  const grades = curves.map((c) =>
    Array.from({ length: bands }, (_, u) => {
      const seen = random() < 0.04 ? TOP_GRADE * random() : c(u) + lenient + odd[u]! + scatter * normal()
      return missing[u] || random() < 0.06 ? null : Math.round(clipped(seen))
    }),
  )
  let bestAt = 0
  for (let u = 0; u <= bands - 1 + 1e-9; u += 0.05) if (worth(u) > worth(bestAt) + 1e-9) bestAt = u
  return { grades, worth, best: worth(bestAt), bestAt }
}

import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { EMPTY_CASE, diagnoseCase, partFactsOf, type PartFacts } from '../src/casework'
import type { Kernel, Solid } from '../src/geometry'
import { USUAL_LAYOUT } from '../src/planner'
import { deriveRecipe } from '../src/recipe'
import { kernelReady } from './lib/kernel'

const today = '2026-01-10'
const machine = DEMO_MACHINES.greenhouse
const filament = demoFilaments(today).terracotta
const pair = { machine, filament, recipe: deriveRecipe({ machine, filament }) }

const AS_DRAWN = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] as const

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const box = (x: number, y: number, z: number, at: [number, number, number] = [0, 0, 0]) =>
  k.Manifold.cube([x, y, z]).translate(at)
const joined = (...all: Solid[]) => k.Manifold.compose(all)
const factsOf = (solid: Solid): PartFacts =>
  partFactsOf(k, solid, pair, { ...USUAL_LAYOUT, placement: AS_DRAWN })
const diagnose = (about: PartFacts | null, ...signs: string[]) =>
  diagnoseCase(
    { ...EMPTY_CASE, signs: Object.fromEntries(signs.map((s) => [s, 'present'])), about },
    { ...pair, today },
  )
const chanceOf = (about: PartFacts | null, suspect: string, ...signs: string[]) =>
  diagnose(about, ...signs).balance.suspects.find((s) => s.id === suspect)?.probability ?? 0

describe('what a 3D model says in its case', () => {
  it('measures gap, wall, contact and what hangs off the mesh itself', () => {
    const apart = factsOf(joined(box(10, 10, 8), box(10, 10, 8, [10.2, 0, 0])))
    expect(apart.gap).toBeCloseTo(0.2, 2)
    expect(apart).toMatchObject({ contact: expect.closeTo(200, 0), islands: 2, hanging: 0 })
    expect(apart.longest).toBeCloseTo(20.2, 1)
    // one piece has no gap, a plate on a post hangs, a thin fin is a thin wall
    expect(factsOf(box(10, 10, 8)).gap).toBeNull()
    const table = factsOf(k.Manifold.union(box(4, 4, 10, [8, 8, 0]), box(20, 20, 2, [0, 0, 10])))
    expect(table.hanging).toBeGreaterThan(300)
    expect(factsOf(box(20, 0.5, 8)).wall).toBeLessThanOrEqual(0.56)
    expect(factsOf(box(20, 20, 8)).wall).toBeNull()
  })
  it('makes a narrow gap the first cause of what fused, and a wide one none', () => {
    const of = (gap: number) => factsOf(joined(box(10, 10, 8), box(10, 10, 8, [10 + gap, 0, 0])))
    const at = (gap: number) => chanceOf(of(gap), 'clearance-too-small', 'moving-parts-fused')
    const without = chanceOf(null, 'clearance-too-small', 'moving-parts-fused')
    expect(at(0.15)).toBeGreaterThan(0.5)
    expect(at(0.15)).toBeGreaterThan(at(0.3))
    expect(at(0.3)).toBeGreaterThan(without)
    expect(at(0.7)).toBeLessThan(without)
  })
  it('offers the joint ladder for fused joints, before the longer plate, and never for sizes alone', () => {
    const trials = (...signs: string[]) => {
      const { plan } = diagnose(null, ...signs)
      return [plan.next, ...plan.others].flatMap((s) => (s?.kind === 'trial' ? [s.trial] : []))
    }
    const fused = trials('moving-parts-fused')
    expect(fused).toContain('joint-ladder')
    expect(fused.indexOf('joint-ladder')).toBeLessThan(
      fused.includes('size-plate') ? fused.indexOf('size-plate') : 99,
    )
    expect(trials('outside-too-big', 'error-constant')).not.toContain('joint-ladder')
  })
  it('knows how long a part is, and how easily it falls over', () => {
    const rod = factsOf(box(3, 3, 90))
    const plate = factsOf(box(60, 60, 5))
    expect(chanceOf(rod, 'contact-too-small', 'part-breaks-loose')).toBeGreaterThan(
      2 * chanceOf(plate, 'contact-too-small', 'part-breaks-loose'),
    )
  })
})

import { fullStep, fullStepsBetween, thickestLayer, thinnestLayer } from '../../machine/machine'
import { policyFor } from '../policies'
import type { WALLS } from '../settings/walls'
import { always, computed, practice, type Derivation, type RulesOf } from './engine'
import type { Grade } from './values'
import { because } from './reasons'

/** Layer height of each grade against the nozzle. Common practice: 0.12, 0.20 and 0.28 from a 0.4 mm nozzle. */
const GRADE_SHARE: Record<Grade, number> = { fine: 0.3, standard: 0.5, coarse: 0.7 }
/** Thinnest layer that is printed at all, mm: of what is so soft that a thicker one would not melt. */
const THINNEST = 0.04

/** Slowest line that is laid, mm/s. */
const SLOWEST = 3

/** Thickest layer whose line of usual width still melts at the slowest speed, mm. */
function thickestMelted(d: Derivation): number {
  const cap = d.meltRate()
  const width = 1.25 * d.machine.nozzle.diameter
  // a bead takes at most its rectangle
  return cap / SLOWEST / width
}

export const WALLS_RULES: RulesOf<typeof WALLS> = {
  layerHeight: (d) => {
    const { grade } = d
    const step = fullStep(d.machine)
    const wanted = GRADE_SHARE[grade] * d.machine.nozzle.diameter
    const fits = fullStepsBetween(thinnestLayer(d.machine), thickestLayer(d.machine), d.machine)
    // the step next under what is wanted; the thinnest that still prints where that is too thin
    const onStep = fits.filter((s) => s <= wanted + 1e-6).at(-1) ?? fits[0]
    // at the slowest a line can be laid, its bead still has to melt
    const most = thickestMelted(d)
    if (most < (onStep ?? wanted)) {
      const low = Math.max(THINNEST, Math.floor(most / step + 1e-6) * step)
      return [
        practice(wanted, because('share-of-nozzle', { grade })),
        computed(low, because('melts-no-thicker', { height: low })),
      ]
    }
    const reason =
      onStep === undefined
        ? because('no-full-step', { step })
        : onStep > wanted + 1e-6
          ? because('fine-as-nozzle', { grade, step })
          : because('on-full-step', { grade, step })
    return [
      practice(wanted, because('share-of-nozzle', { grade })),
      computed(onStep ?? Math.max(thinnestLayer(d.machine), wanted), reason),
    ]
  },
  outerWidth: (d) => [
    d.filament.family === 'pla-silk'
      ? practice(d.machine.nozzle.diameter * 1.25, because('silk-width'))
      : practice(d.machine.nozzle.diameter * 1.125, because('presses-lines')),
  ],
  innerWidth: (d) => [practice(d.number('outerWidth'), because('as-outer-wall'))],
  fillWidth: (d) => [practice(d.number('outerWidth'), because('as-outer-wall'))],
  solidWidth: (d) => [practice(d.number('fillWidth'), because('as-infill-lines'))],
  topWidth: (d) => [practice(d.number('solidWidth'), because('as-solid-lines'))],
  wallCount: (d) => [
    practice(Math.max(2, Math.round(1.2 / d.number('outerWidth'))), because('wall-thickness')),
  ],
  firstWalls: (d) => [practice(d.number('wallCount'), because('walls-as-above'))],
  spiral: always(false, because('spiral-if-meant')),
  topLayers: (d) => [
    practice(Math.max(3, Math.ceil(0.8 / d.number('layerHeight'))), because('top-thickness')),
  ],
  bottomLayers: (d) => [
    practice(Math.max(3, Math.ceil(0.6 / d.number('layerHeight'))), because('bottom-thickness')),
  ],
  sparseDensity: ({ card: c }) => [
    c.flexible ? practice(15, because('less-is-softer')) : practice(20, because('enough-infill')),
  ],
  sparseKind: ({ card: c }) => [
    c.flexible ? practice('gyroid', because('gives-alike')) : practice('lines', because('lines-quickest')),
  ],
  wallOrder: always('inside-first', because('inside-first')),
  seamPlace: ({ machine: m, filament: f }) => {
    const policy = policyFor('seam-place', m, f)
    return policy ? [practice(policy.side === 1 ? 'scattered' : 'tucked', policy.because)] : []
  },
  seamDirection: always(90, because('seam-at-back')),
}

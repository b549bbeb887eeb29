import { widthAtSpacing } from '../../../extrusion/bead'
import type { MaterialCard } from '../../../material/cards'
import type { PathReading } from '../../../toolpath/reading'
import { onBed } from '../../../toolpath/onBed'
import type { FindingRules } from './finding'

/** Heights of the first layer. */
const base = (r: PathReading) => ({ from: 0, to: r.firstLayer?.height ?? r.layers.z[0] })
/** Width the first layer's lines were meant to have, from their spacing; null where it cannot be told. */
const lineWidth = (r: PathReading) => {
  const f = onBed(r)
  return f?.spacing ? widthAtSpacing(f.spacing, f.height) : null
}
/** Below this a first layer is thin whatever the bed is like, mm. */
const THIN = 0.15

const mostFirst = (card: MaterialCard) => (card.flexible ? 20 : 40)

/** Whether a first layer runs faster than lines take hold, outright or against what follows. */
function tooFast(r: PathReading, card: MaterialCard): boolean {
  const speed = r.firstLayer?.speed ?? 0
  const outer = r.rest.outerSpeed
  return speed > mostFirst(card) || (outer !== null && speed > 20 && speed > 0.8 * outer)
}

export const FIRST_LAYER_FINDINGS = {
  'first-fast': {
    raises: ['first-layer-too-fast'],
    find: (r, { card }) => {
      const speed = r.firstLayer?.speed
      if (speed === undefined) return null
      const most = mostFirst(card)
      return tooFast(r, card)
        ? { severity: 'fault', ...base(r), size: speed / most, values: { speed } }
        : null
    },
  },
  'first-calm': {
    clears: ['first-layer-too-fast'],
    find: (r, { card }) =>
      r.firstLayer && r.firstLayer.speed <= (card.flexible ? 20 : 30) && !tooFast(r, card)
        ? { severity: 'good', values: { speed: r.firstLayer.speed } }
        : null,
  },
  'first-thin': {
    raises: ['first-layer-too-thin'],
    find: (r, { machine }) => {
      const height = r.firstLayer?.height
      const { residual } = machine.bed
      if (height === undefined || r.base.raftLayers) return null
      return (residual !== null ? height < 2 * residual : height < THIN)
        ? { severity: 'caution', ...base(r), values: { height, residual } }
        : null
    },
  },
  'first-narrow': {
    raises: ['first-layer-line-too-narrow'],
    find: (r, { nozzle }) => {
      const width = lineWidth(r)
      return width !== null && width < 1.02 * nozzle
        ? { severity: 'caution', ...base(r), size: width / nozzle, values: { width } }
        : null
    },
  },
  'first-wide': {
    raises: ['first-layer-line-too-wide'],
    find: (r, { nozzle }) => {
      const width = lineWidth(r)
      return width !== null && width > 1.6 * nozzle
        ? {
            severity: width > 2 * nozzle ? 'caution' : 'note',
            ...base(r),
            size: width / nozzle,
            values: { width, share: (width / nozzle) * 100 },
          }
        : null
    },
  },
  'first-overfed': {
    raises: ['first-layer-overfed'],
    find: (r) => {
      const flow = onBed(r)?.flow
      return flow && flow > 106 ? { severity: 'fault', ...base(r), size: flow / 100, values: { flow } } : null
    },
  },
  'first-underfed': {
    raises: ['flow-too-low'],
    decibans: 3,
    find: (r) => {
      const flow = onBed(r)?.flow
      return flow && flow < 93
        ? { severity: 'caution', ...base(r), size: flow / 100, values: { flow } }
        : null
    },
  },
  'first-gaps': {
    raises: ['first-layer-line-too-narrow'],
    decibans: 4,
    find: (r) => {
      const gaps = onBed(r)?.gaps ?? 0
      return gaps > 8 ? { severity: 'caution', ...base(r), size: gaps / 100, values: { share: gaps } } : null
    },
  },
  'no-priming': {
    raises: ['not-primed'],
    find: (r) =>
      !r.primed && r.layerCount > 1 ? { severity: 'fault', from: 0, to: r.layers.z[0], values: {} } : null,
  },
  primed: {
    clears: ['not-primed'],
    find: (r) => (r.primed ? { severity: 'good', values: {} } : null),
  },
  'contact-tiny': {
    raises: ['contact-too-small'],
    find: (r) => {
      const f = r.firstLayer
      if (!f || r.base.brim || r.base.raftLayers) return null
      const perHeight = f.contact / Math.max(1, r.height)
      return perHeight < 4 || (f.contact < 60 && r.height > 15)
        ? {
            severity: 'fault',
            ...base(r),
            size: perHeight,
            values: { contact: f.contact, height: r.height },
          }
        : null
    },
  },
  'islands-quick': {
    raises: ['slow-zone-too-short', 'contact-too-small'],
    decibans: 8,
    find: (r) => {
      const f = onBed(r)
      if (!f || f.islands < 5) return null
      const above = r.layers.outerSpeed[Math.min(f.layer + 2, r.layerCount - 1)]
      return above && above > 1.5 * f.speed && f.smallestIsland < 150
        ? {
            severity: 'caution',
            from: 0,
            to: Math.min(3, r.height),
            size: f.islands,
            values: { islands: f.islands, smallest: f.smallestIsland },
          }
        : null
    },
  },
  'raft-there': {
    find: (r) =>
      r.base.raftLayers
        ? {
            severity: 'note',
            from: 0,
            to: r.layers.z[r.base.raftLayers - 1],
            values: { layers: r.base.raftLayers },
          }
        : null,
  },
} satisfies FindingRules

import { beadArea, filamentArea, speedAtMeltCap } from '../../extrusion/bead'
import type { NumberKey } from '../settings'
import type { ValuesOnly } from './values'

/** What one kind of line asks of the hot end and the drive. */
export interface FeatureLoad {
  /** The setting that holds its speed. */
  key: NumberKey
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

const FEATURES: { key: NumberKey; width: NumberKey; flow: NumberKey; first?: true }[] = [
  { key: 'firstSpeed', width: 'firstWidth', flow: 'flowFirst', first: true },
  { key: 'outerSpeed', width: 'outerWidth', flow: 'flowOuter' },
  { key: 'topSpeed', width: 'topWidth', flow: 'flowSolid' },
  { key: 'innerSpeed', width: 'innerWidth', flow: 'flowInner' },
  { key: 'solidSpeed', width: 'solidWidth', flow: 'flowSolid' },
  { key: 'sparseSpeed', width: 'fillWidth', flow: 'flowSparse' },
]

/**
 * Bead, melt rate and feed of every feature against the melt cap. Plain geometry.
 * @param cap mm³/s; the recipe's own where nothing better is known
 */
export function featureLoads(values: ValuesOnly, cap = values.meltCap.value): FeatureLoad[] {
  const n = (k: NumberKey) => values[k].value
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

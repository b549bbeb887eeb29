import type { FamilyId } from '../../material/cards'
import type { Finish } from '../../material/filament'
import { reasonsOf, type Reason } from '../../quantity/reason'
import type { SettingKey } from '../settings'
import type { Grade } from './values'

type Plain = object
export interface Of {
  family: FamilyId
}
export interface Span {
  min: number
  max: number
}

/** Why a derived value is what it is, with the values its sentence needs; units as in the settings. */
export interface DeriveReasons {
  /** A rule of thumb that no source stands behind. */
  practice: { reason: Reason }
  'held-at-limit': { reason: Reason; limit: number; setting: SettingKey }

  'same-as-rest': Plain
  'nozzle-of-card': Of & Span & { start: number }
  'relative-within-label': Span & { tested: number }
  'nearest-to-relative': Span & { tested: number }
  'share-of-label': Span & { share: number }
  /** A label far wider than the plastic's own range: where in it by how much is melted, 0 to 1 of the cap. */
  'wide-label': Of & Span & { start: number; demand: number }
  'filling-heat': Of & { finish: Finish; start: number; hotter: number }
  'filling-pulled-less': { finish: Finish; length: number }
  'bed-of-card': Of & { value: number; layer: 'first' | 'rest'; because: Reason | null }
  'within-label': Span & { value: number }
  'nearest-within-label': Span & { value: number }
  'no-chamber': Plain
  'splits-in-cold': Of
  'needs-no-chamber': Of

  'nominal-diameter': { diameter: number }
  'measured-diameter': { count: number; spread: number; ovality: number | null }
  'melt-of-card': Of
  /** Whether the melt zone is one for high flow; none in recipes written before machines said so. */
  'melt-scaled': { diameter: number; hardened: boolean; highFlow?: boolean }
  'density-of-card': Of
  'starts-at-hundred': { setting: SettingKey }
  'lets-raft-go': Plain

  'wants-retraction': Of & { drive: 'tube' | 'direct' }
  'direct-start': Of & { length: number }
  'softer-pulled-less': { shore: number; cardShore: number }
  'soft-on-tube-most': Plain
  'tube-of-card': Of & { length: number }
  'tube-rule': Of & { tubeLength: number }
  'tube-capped': Of & { tubeLength: number }
  'soft-pulled-slowly': Plain
  'tube-pull-speed': Plain
  'short-pull-speed': Plain
  'no-restart-extra': Plain
  'no-lift': Plain
  'short-hops': Plain
  'wipe-one-nozzle': Plain
  'early-stop-off': Plain
  'pressure-off': Plain

  'fan-off-base': Of
  'fan-at-once': Plain
  'no-part-fan': Plain
  'fan-of-card': Of & { duty: number; because: Reason | null }
  'fan-overhang': Of & { duty: number }
  'fan-bridge': { duty: number }
  'five-seconds': Plain
  'bead-sets': {
    nozzle: number
    solidAt: number
    seconds: number
    fan: number
    /** How many times that; none in recipes written before there was a margin. */
    margin?: number
    held: boolean
    crystallising?: boolean
  }
  'floor-keeps-change-small': Plain

  'thicker-on-screws': Plain
  'as-layers-on-probe': Plain
  'twice-residual': { residual: number }
  'half-nozzle-first': Plain
  'first-on-full-step': { reason: Reason; step: number }
  'first-line-grips': Plain
  'half-outer-first': Plain
  'z-found-on-machine': Plain
  'many-islands-only': Plain
  'no-faster-than-first': Plain

  'two-loops': Plain
  'brim-welds': Plain
  'brim-on-open': Of
  'no-brim': Plain
  'as-first-lines': Plain
  'joined-brim': Plain
  'no-tabs': Plain
  'one-thick-layer': Plain
  'two-top-layers': Plain
  'raft-margin': Plain
  'three-quarter-gap': Plain
  'raft-lines-wide': Plain
  'raft-lines-slow': Plain
  'raft-density': Plain
  'as-other-lines': Plain
  'as-slow-as-first': Plain
  'raft-closed': Plain
  'raft-crossed': Plain
  'one-layer-of-air': Plain
  'supports-weld': Plain
  'supports-if-it-hangs': Plain
  'past-sixty': Plain
  'comes-off-in-sheets': Plain
  'splits-in-moving-air': Of
  'not-needed-here': Plain

  'share-of-nozzle': { grade: Grade }
  'on-full-step': { grade: Grade; step: number }
  'no-full-step': { step: number }
  'silk-width': Plain
  'presses-lines': Plain
  'as-outer-wall': Plain
  'as-infill-lines': Plain
  'as-solid-lines': Plain
  'walls-as-above': Plain
  'spiral-if-meant': Plain
  'gives-alike': Plain
  'lines-quickest': Plain
  'wall-thickness': Plain
  'top-thickness': Plain
  'bottom-thickness': Plain
  'less-is-softer': Plain
  'enough-infill': Plain
  'inside-first': Plain
  'seam-at-back': Plain

  'good-face': Of & { speed: number }
  'careful-first': Plain
  brisk: Of & { speed: number; times: number }
  'fast-machine': Of & { speed: number; times: number }
  'filling-slower': Of & { finish: Finish; speed: number }
  'softer-goes-slower': { shore: number; cardShore: number; speed: number }
  'softer-melts-less': { shore: number; cardShore: number }
  'where-nobody-looks': Of & { speed: number }
  'no-faster-than-face': Plain
  'last-layer-seen': Plain
  'one-speed-for-soft': Plain
  'third-faster': Plain
  'bridge-of-card': Of & { speed: number }
  'half-outer-or-slower': Plain
  'half-outer': Plain
  'curls-less-slow': Plain
  'nearly-a-bridge': Plain
  'twenty-nozzles': Plain
  'no-time-for-ooze': Plain
  'open-frame-rings': Plain
  'stiff-frame-bears': Plain
  'ripples-hidden': Plain
  'brisk-travels': Plain
  'share-of-acceleration': { share: number; frame: 'open' | 'enclosed' }
  'gentle-first-layer': Plain
  'machine-set-to': Plain
  'square-corner-speed': Plain
  'square-corner-deviation': Plain
  'label-speed': { speed: number }
  'melt-capped': Of & { width: number; height: number; speed: number; rate: number; cap: number }

  'melts-no-thicker': { height: number }
  'fine-as-nozzle': { grade: Grade; step: number }
  'zero-until-plate': Plain
  'zero-until-flare': Plain
}
export const because = reasonsOf<DeriveReasons>()

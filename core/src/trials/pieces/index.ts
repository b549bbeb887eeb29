import type { PieceId } from '../types'
import { BRIDGE_COMB } from './bridgeComb/definition'
import { CORNER_COLUMNS } from './cornerColumns/definition'
import { FAN_TOWER } from './fanTower/definition'
import { FIRST_LAYER_SHEET } from './firstLayerSheet/definition'
import { FLOW_BOX } from './flowBox/definition'
import { JOINT_LADDER } from './jointLadder/definition'
import { LAYER_TIME_PAIR } from './layerTimePair/definition'
import { MELT_RATE_RUN } from './meltRateRun/definition'
import type { PieceDefinition } from './piece'
import { PRESSURE_LINES } from './pressureLines/definition'
import { RETRACTION_TOWER } from './retractionTower/definition'
import { SEAM_COLUMNS } from './seamColumns/definition'
import { SIZE_PLATE } from './sizePlate/definition'
import { SPEED_FINS } from './speedFins/definition'
import { STRING_POSTS } from './stringPosts/definition'
import { TEMPERATURE_TOWER } from './temperatureTower/definition'

/** Every test piece. A piece without a build or an outcome does not compile. */
export const PIECES: Record<PieceId, PieceDefinition> = {
  'first-layer-sheet': FIRST_LAYER_SHEET,
  'temperature-tower': TEMPERATURE_TOWER,
  'flow-box': FLOW_BOX,
  'retraction-tower': RETRACTION_TOWER,
  'fan-tower': FAN_TOWER,
  'melt-rate-run': MELT_RATE_RUN,
  'pressure-lines': PRESSURE_LINES,
  'corner-columns': CORNER_COLUMNS,
  'seam-columns': SEAM_COLUMNS,
  'speed-fins': SPEED_FINS,
  'layer-time-pair': LAYER_TIME_PAIR,
  'bridge-comb': BRIDGE_COMB,
  'string-posts': STRING_POSTS,
  'size-plate': SIZE_PLATE,
  'joint-ladder': JOINT_LADDER,
}

/** Whether a trial the knowledge names has a piece. */
export const isPiece = (id: string): id is PieceId => Object.hasOwn(PIECES, id)

import { reasonsOf, type Reason } from '../../quantity/reason'

/** Why a file gives no mesh, with the values its sentence needs. */
export interface MeshFaults {
  'mesh-empty-file': object
  'mesh-foreign': object
  /** The file ends before what its head says. */
  'mesh-cut-short': { told: number; there: number }
  'mesh-no-faces': object
  /** A line of words that is none. */
  'mesh-not-a-number': { line: number; text: string }
  'mesh-word': { line: number; text: string }
  /** A corner that is no number, or farther off than anything that is printed. */
  'mesh-no-place': { face: number }
  'mesh-too-many': { faces: number; most: number }
  'mesh-too-large': { bytes: number; most: number }
  /** It is open, or crosses itself, in ways that cannot be put right. */
  'mesh-no-inside': { open: number; crowded: number }
  'package-broken': object
  'package-swells': { bytes: number; most: number }
  'package-no-model': object
  'package-entity': object
  'package-xml': { line: number }
  'package-unit': { unit: string }
  'package-missing': { id: string }
  'package-circle': { id: string }
  /** Objects used within objects used within …: more than can be built. */
  'package-too-many': { objects: number; most: number }
  'package-corner': { index: number; count: number }
  'package-matrix': { text: string }
  'package-nothing': object
}
export const meshFault = reasonsOf<MeshFaults>()

/** A file that gives no mesh. */
export class MeshError extends Error {
  constructor(readonly reason: Reason) {
    super(reason.code)
    this.name = 'MeshError'
  }
}

import { MeshError, meshFault } from './reasons'
import { readStl, type Progress } from './stl'
import { isPackage, readThreeMf, type NamedMesh } from './threeMf'

/** Largest file that is read, bytes. */
export const MOST_BYTES = 200_000_000

/**
 * Reads what a mesh file holds, whatever it is called: 3MF packages and both forms of STL.
 * @param name of the part, where the file gives none
 * @throws MeshError
 */
export function readMeshes(bytes: Uint8Array, name: string, onStep?: Progress): NamedMesh[] {
  if (bytes.length > MOST_BYTES)
    throw new MeshError(meshFault('mesh-too-large', { bytes: bytes.length, most: MOST_BYTES }))
  if (isPackage(bytes)) return readThreeMf(bytes, onStep)
  return [{ name, mesh: readStl(bytes, onStep) }]
}

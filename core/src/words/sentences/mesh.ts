import { bytes, figure } from '../../quantity/format'
import type { MeshFaults } from '../../geometry/mesh/reasons'
import { plain, type Sentences } from './sentences'

export const meshFaultSentences: Sentences<MeshFaults> = {
  'mesh-empty-file': plain('The file is empty.'),
  'mesh-foreign': plain('This file cannot be read as a 3D model. Use STL (binary or text) or 3MF.'),
  'mesh-cut-short': ({ told, there }) =>
    `The file ends too soon. It should have ${told} faces but has only ${there}. Download it again.`,
  'mesh-no-faces': plain('There are no faces in this file.'),
  'mesh-not-a-number': ({ line, text }) => `Line ${line} has “${text}” where a number should be.`,
  'mesh-word': ({ line, text }) => `Line ${line}: “${text}” does not belong in an STL file.`,
  'mesh-no-place': ({ face }) => `A corner of face ${face} is not a valid place, or is more than 100 m away.`,
  'mesh-too-many': ({ faces, most }) =>
    `${figure(faces / 1e6, 1)} million faces are too many; the limit is ${figure(most / 1e6, 0)} million. Simplify the model first.`,
  'mesh-too-large': ({ bytes: size, most }) => `The file has ${bytes(size)}; ${bytes(most)} is the most.`,
  'mesh-no-inside': ({ open, crowded }) =>
    `This mesh has no inside that could be printed${open ? `: ${open} edges stay open` : crowded ? `: ${crowded} edges belong to more than two faces` : ''}. Repair it in the program that made it.`,
  'package-broken': plain('This 3MF file is damaged and cannot be opened.'),
  'package-swells': ({ bytes: size }) =>
    `This package would unpack to ${bytes(size)} or more, so Verimend does not open it.`,
  'package-no-model': plain('There is no model in this package.'),
  'package-entity': plain('This package defines XML entities of its own, so Verimend does not open it.'),
  'package-xml': ({ line }) => `The model is not valid XML (line ${line}).`,
  'package-unit': ({ unit }) => `The model uses “${unit}”, which is not a known unit.`,
  'package-missing': ({ id }) => `The model refers to object ${id}, which is missing.`,
  'package-circle': ({ id }) =>
    `Object ${id} refers back to itself through other objects, or is nested too deep.`,
  'package-too-many': ({ objects, most }) =>
    `This package is put together from ${objects < 1e15 ? figure(objects, 0) : 'countless'} objects within objects; ${figure(most, 0)} is the most.`,
  'package-corner': ({ index, count }) => `A face has a corner ${index}; there are ${count}.`,
  'package-matrix': ({ text }) => `A placement needs twelve numbers; “${text}” does not have them.`,
  'package-nothing': plain('This package lists nothing to print.'),
}

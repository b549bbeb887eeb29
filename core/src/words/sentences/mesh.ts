import { bytes, figure } from '../../quantity/format'
import type { MeshFaults } from '../../geometry/mesh/reasons'
import { plain, type Sentences } from './sentences'

export const meshFaultSentences: Sentences<MeshFaults> = {
  'mesh-empty-file': plain('The file is empty.'),
  'mesh-foreign': plain('This is no mesh that can be read here: STL, in bytes or words, or 3MF is.'),
  'mesh-cut-short': ({ told, there }) =>
    `The file ends too soon: it speaks of ${told} faces and has ${there}. Fetch it again.`,
  'mesh-no-faces': plain('There are no faces in this file.'),
  'mesh-not-a-number': ({ line, text }) => `In line ${line} “${text}” stands where a number should.`,
  'mesh-word': ({ line, text }) => `In line ${line}: “${text}” has no place in STL.`,
  'mesh-no-place': ({ face }) => `A corner of face ${face} is no place, or farther off than 100 m.`,
  'mesh-too-many': ({ faces, most }) =>
    `${figure(faces / 1e6, 1)} million faces are too many: ${figure(most / 1e6, 0)} million are the most. Simplify it first.`,
  'mesh-too-large': ({ bytes: size, most }) => `The file has ${bytes(size)}; ${bytes(most)} is the most.`,
  'mesh-no-inside': ({ open, crowded }) =>
    `This mesh has no inside that could be printed${open ? `: ${open} edges stay open` : crowded ? `: ${crowded} edges belong to more than two faces` : ''}. Mend it where it was drawn.`,
  'package-broken': plain('This 3MF package cannot be opened: it is broken.'),
  'package-swells': ({ bytes: size }) => `This package unpacks to ${bytes(size)} or more: that is refused.`,
  'package-no-model': plain('There is no model in this package.'),
  'package-entity': plain('This package names entities of its own: that is refused.'),
  'package-xml': ({ line }) => `The model is no sound XML: line ${line}.`,
  'package-unit': ({ unit }) => `The model is drawn in “${unit}”, a unit nobody knows.`,
  'package-missing': ({ id }) => `The model speaks of an object ${id} that is not there.`,
  'package-circle': ({ id }) => `Objects hang on each other in a circle, or too deep in each other: ${id}.`,
  'package-too-many': ({ objects, most }) =>
    `This package is put together from ${objects < 1e15 ? figure(objects, 0) : 'countless'} objects within objects; ${figure(most, 0)} is the most.`,
  'package-corner': ({ index, count }) => `A face has a corner ${index}; there are ${count}.`,
  'package-matrix': ({ text }) => `A place has twelve numbers; “${text}” has not.`,
  'package-nothing': plain('There is nothing to be built in this package.'),
}

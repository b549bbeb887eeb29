import { PIECES, PIECE_IDS, makePiece, proposeSteps } from '@verimend/core/trials'
import { settled } from '../proof/settled'
import { STEADY_PERSON } from '../src'
import { printed, readingsOf, type MachineKind } from '../proof/sitting'

const KINDS: readonly MachineKind[] = ['tube', 'direct', 'enclosed']

// who cannot look at a place cannot answer by it
test.each(PIECE_IDS.flatMap((piece) => KINDS.map((kind) => [piece, kind] as const)))(
  '%s on a machine of kind %s: every place of the print can be read',
  (piece, kind) => {
    const { pair, world } = settled(kind, 'petg', 7)
    const definition = PIECES[piece]
    if (definition.lacks?.(pair)) return
    const { steps, across } = proposeSteps(pair, piece)
    const made = makePiece(pair, { piece, steps, ...(across && { across }) })
    const part = printed(made.gcode, pair.machine, world)
    const readings = readingsOf(part, world, made.cells, definition.criteria, STEADY_PERSON, 1)
    const unread = made.cells.filter((c) => {
      const r = readings[c.id]
      if (c.measure) return !r?.measures.length
      return !Object.keys(r?.grades ?? {}).length
    })
    expect(unread.map((c) => c.id)).toEqual([])
  },
)

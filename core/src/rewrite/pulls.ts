import { MoveKind } from '../gcode/program'
import type { Analysis } from '../toolpath/analysis'
import { ChangeError } from './change'
import type { FileAsRead } from './file'

/** A pull-back with the moves it is made of. */
export interface Pull {
  /** Moves that pull back. */
  back: number[]
  /** Moves that feed again with the head still, before the next line. */
  forth: number[]
  /** First move after the pull-back, and the move that feeds again. */
  from: number
  to: number
  /** mm */
  pulled: number
  /** mm fed beyond what was pulled back. */
  extra: number
  /** mm; the height the head rises to, the height it does not sink below anyway, and the difference. */
  top: number
  base: number
}

/** All pull-backs of a print that are taken back before a line. */
export function pullsIn({ program, index }: Analysis): Pull[] {
  const { count, e, kind, z } = program
  const pulls: Pull[] = []
  let back: number[] = []
  let pulled = 0
  let fromZ = 0
  let top = 0
  let from = 0
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    if (k === MoveKind.Retract || k === MoveKind.RetractMoving) {
      if (!back.length) fromZ = top = z[i]
      back.push(i)
      pulled -= e[i]
      from = i + 1
    } else if (back.length) {
      if (z[i] > top) top = z[i]
      if (e[i] <= 0) continue
      const forth: number[] = []
      let fed = 0
      for (let j = i; j < count && kind[j] === MoveKind.Feed; j++) {
        forth.push(j)
        fed += e[j]
      }
      if (forth.length && pulled > 0.02 && index.layerOf[back[0]] >= 0)
        pulls.push({
          back,
          forth,
          from,
          to: i,
          pulled,
          extra: fed - pulled,
          top,
          base: Math.max(fromZ, z[i]),
        })
      back = []
      pulled = 0
    }
  }
  return pulls
}

/** How far a pull-back may lie from the usual one and still be one of them, mm. */
const USUAL = 0.035

/** The pull-backs of the usual length. */
export function usualPulls(file: FileAsRead): Pull[] {
  const { kind, length } = file.reading.retraction
  if (kind === 'none') throw new ChangeError('change-does-nothing')
  const pulls = pullsIn(file.analysis).filter((p) => Math.abs(p.pulled - (length ?? 0)) < USUAL)
  if (!pulls.length) throw new ChangeError('change-not-told')
  return pulls
}

/** Gives the move that feeds again so much more. */
export function feedAgain(file: FileAsRead, p: Pull, more: number, into: Map<number, number>): void {
  const { e } = file.analysis.program
  const most = p.forth.reduce((a, b) => (e[b] > e[a] ? b : a))
  into.set(most, e[most] + more)
}

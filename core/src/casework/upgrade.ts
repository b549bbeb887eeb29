import { upgradeReason, type Reason } from '../quantity/reason'
import type { HeightRange, QuantityId } from '../toolpath/correlate'
import type { HeightMark } from './diagnoseCase'

/**
 * Shape in which cases are kept now.
 * 1: marks carried a sentence and their heights as `marks`; what a case taught was one text.
 * 2: reasons are codes with values.
 */
export const CASE_SCHEMA = 2

/** A mark as it was kept, in any shape there ever was. */
export interface StoredMark {
  id: string
  fileId: string
  quantity: string
  strength: number
  p: number
  /** From shape 1. */
  marks?: HeightRange[]
  sentence?: string
  heightRanges?: HeightRange[]
  reason?: Reason
}

/** A kept mark in today's shape. */
export function upgradeMark(stored: StoredMark): HeightMark & { id: string } {
  const { id, fileId, quantity, strength, p } = stored
  return {
    id,
    fileId,
    heightRanges: stored.heightRanges ?? stored.marks ?? [],
    quantity: quantity as QuantityId,
    strength,
    p,
    reason: upgradeReason(stored.reason ?? stored.sentence),
  }
}

/** What a case taught, in today's shape: reasons as JSON, or the text that was kept before. */
export function upgradeTaught(stored: string | null): Reason[] | null {
  if (stored === null) return null
  if (!stored.startsWith('[')) return [upgradeReason(stored)]
  return (JSON.parse(stored) as unknown[]).map(upgradeReason)
}

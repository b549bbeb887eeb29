import type { NumericPrintSetting } from '../gcode/printSettings'

/** Kinds of line that have a flow and a speed of their own. */
export type LineKind = 'outer' | 'inner' | 'solid' | 'top' | 'sparse' | 'bridge'

/** The setting that says how much each is fed. */
export const LINE_FLOW: Record<LineKind, NumericPrintSetting> = {
  outer: 'flowOuter',
  inner: 'flowInner',
  solid: 'flowSolid',
  top: 'flowSolid',
  sparse: 'flowSparse',
  bridge: 'flowBridge',
}
/** The setting that says how fast each is laid. */
export const LINE_SPEED: Record<LineKind, NumericPrintSetting> = {
  outer: 'outerSpeed',
  inner: 'innerSpeed',
  solid: 'solidSpeed',
  top: 'topSpeed',
  sparse: 'sparseSpeed',
  bridge: 'bridgeSpeed',
}

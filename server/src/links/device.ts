import type { PrintState } from '@verimend/contract'
import type { FamilyId } from '@verimend/core/material'
import type { ToldOfPrint } from '../database/models'

/** What a machine tells of something that was sent to it. */
export interface DeviceStatus extends ToldOfPrint {
  id: string
  state: PrintState
  reason: string | null
}

/** Of what was not begun yet. */
export const NOT_BEGUN: ToldOfPrint = {
  done: 0,
  total: 0,
  left: null,
  layer: 0,
  layerCount: 0,
  nozzle: 0,
  bed: 0,
  waitsFor: 0,
}

/** How far it is, of what a machine tells. */
export const toldOf = ({ id: _id, state: _state, reason: _reason, ...told }: DeviceStatus): ToldOfPrint =>
  told

/** Something to print: a file with what it is called, and the roll it is printed from. */
export interface Sent {
  id: string
  machineId: string
  name: string
  /** Path of the kept file. */
  path: string
  roll: { id: string; family: FamilyId; colour?: string }
}

/**
 * The link to a machine. Another open interface is joined by another implementation: nothing else knows how a machine is
 * spoken to.
 */
export interface Device {
  /** Sends a file and begins as soon as the machine is free; sent again under the same id it is there once. */
  send(sent: Sent): Promise<DeviceStatus>
  pause(id: string): Promise<DeviceStatus>
  resume(id: string): Promise<DeviceStatus>
  stop(id: string): Promise<DeviceStatus>
  /** @returns null where the machine does not know it */
  status(id: string): Promise<DeviceStatus | null>
  /** What the machine's camera sees; null without one. */
  still(id: string): Promise<Buffer | null>
  /** Tells of every change, and when the machine is reached again. @returns how to stop */
  watch(tell: (status: DeviceStatus) => void, reached: (up: boolean) => void): () => void
}

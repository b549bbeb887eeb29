import { useSyncExternalStore } from 'react'
import type { Opened } from '../workers/readInWorker'

/** So many files are held open: their moves take memory. */
const MOST = 2

/** Files that stay open with their moves when their screen is left, the newest last; the oldest is closed for a new one. */
class OpenFiles {
  private readonly files = new Map<string, Opened>()
  private readonly listeners = new Set<() => void>()

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }
  of(slot: string): Opened | null {
    return this.files.get(slot) ?? null
  }
  put(slot: string, opened: Opened): void {
    this.drop(slot)
    this.files.set(slot, opened)
    for (const oldest of [...this.files.keys()].slice(0, -MOST)) this.drop(oldest)
    this.changed()
  }
  /** Puts the file of a slot away, or those of all. */
  close(slot?: string): void {
    for (const own of slot === undefined ? [...this.files.keys()] : [slot]) this.drop(own)
    this.changed()
  }
  private changed(): void {
    for (const listener of this.listeners) listener()
  }
  private drop(slot: string): void {
    this.files.get(slot)?.close()
    this.files.delete(slot)
  }
}
export const openFiles = new OpenFiles()

/** The file that is open in a slot; null where none is. */
export const useOpenFile = (slot: string): Opened | null =>
  useSyncExternalStore(openFiles.subscribe, () => openFiles.of(slot))

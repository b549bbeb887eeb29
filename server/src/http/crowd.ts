import type { Server } from 'node:net'
import { LOOPBACK } from '../config'
import { ownerOf } from '../access/guesses'

/** Connections that one address may hold open; a browser holds six, a proxy some dozens. */
export const MOST_OF_ONE = 100
const THIS_MACHINE = new Set(LOOPBACK.map(ownerOf))

/** Keeps one address from taking all connections: those beyond its share are closed at once. This machine is not counted. */
export function limitCrowds(
  server: Server,
  most = MOST_OF_ONE,
  exempt: (owner: string) => boolean = (owner) => THIS_MACHINE.has(owner),
): void {
  const held = new Map<string, number>()
  server.on('connection', (socket) => {
    const owner = ownerOf(socket.remoteAddress ?? '')
    if (exempt(owner)) return
    const now = (held.get(owner) ?? 0) + 1
    if (now > most) return void socket.destroy()
    held.set(owner, now)
    socket.once('close', () => {
      const left = held.get(owner)! - 1
      if (left) held.set(owner, left)
      else held.delete(owner)
    })
  })
}

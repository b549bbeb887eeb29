// What a browser has and the test's stand-in for one lacks.
import * as React from 'react'

const v8 = jest.requireActual<{ serialize(v: unknown): Buffer; deserialize(b: Buffer): unknown }>('node:v8')
const util = jest.requireActual<Pick<typeof globalThis, 'TextDecoder' | 'TextEncoder'>>('node:util')
// a test that holds the clock does not hold what crosses a channel
const { setTimeout: later } = globalThis

Object.assign(globalThis, {
  TextEncoder: util.TextEncoder,
  TextDecoder: util.TextDecoder,
  structuredClone: (value: unknown) => v8.deserialize(v8.serialize(value)),
  IS_REACT_ACT_ENVIRONMENT: true,
  MessageChannel: class {
    port1: { onmessage: (() => void) | null } = { onmessage: null }
    port2 = { postMessage: () => later(() => this.port1.onmessage?.()) }
  },
  ResizeObserver: class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
  matchMedia: (query: string) => ({
    matches: false,
    media: query,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
    addListener: () => undefined,
    removeListener: () => undefined,
  }),
})
Element.prototype.scrollIntoView = () => undefined
Element.prototype.scroll = () => undefined
// working out every style there is for every element takes seconds; what is set on the element itself will do
window.getComputedStyle = (element) => (element as HTMLElement).style

/** The line on which prints are heard; nothing prints in these tests unless one says so. */
class SilentEventSource extends EventTarget {
  close(): void {
    // nothing is open
  }
}
Object.assign(globalThis, { EventSource: SilentEventSource })

// which labels an element has: looked up by its id, where jsdom asks every label of the page whose it is
for (const kind of [HTMLInputElement, HTMLButtonElement, HTMLSelectElement, HTMLTextAreaElement])
  Object.defineProperty(kind.prototype, 'labels', {
    configurable: true,
    get(this: HTMLElement) {
      const named = this.id ? document.querySelectorAll(`label[for=${JSON.stringify(this.id)}]`) : []
      const round = this.closest('label:not([for])')
      return round ? [...named, round] : [...named]
    },
  })

// where each element was made: React notes it for its warnings, and it is two thirds of the time of a large form
const { __CLIENT_INTERNALS_DO_NOT_USE_OR_WARN_USERS_THEY_CANNOT_UPGRADE: internals } =
  React as unknown as Record<string, object>
Object.defineProperty(internals, 'recentlyCreatedOwnerStacks', { get: () => Infinity, set: () => undefined })

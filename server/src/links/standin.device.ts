import { createReadStream } from 'node:fs'
import { Readable } from 'node:stream'
import type { Machine } from '@verimend/core/machine'
import type { FamilyId } from '@verimend/core/material'
import { EventSourceParserStream } from 'eventsource-parser/stream'
import { z } from 'zod'
import { ProblemException, refused } from '../problem/problem'
import type { Device, DeviceStatus, Sent } from './device'

const away = () =>
  refused(
    'machine-away',
    'The simulated machines do not answer. They are started with Verimend; wait a moment and try again.',
  )

const jobStatus = z
  .object({
    id: z.string(),
    state: z.enum(['waiting', 'printing', 'paused', 'done', 'cancelled', 'failed']),
    reason: z.string().nullable(),
    done: z.number(),
    total: z.number(),
    leftHere: z.number(),
    layer: z.number(),
    layerCount: z.number(),
    nozzle: z.number(),
    bed: z.number(),
    waitsFor: z.number(),
  })
  .transform(({ leftHere, ...s }): DeviceStatus => ({ ...s, left: leftHere }))
const problemBody = z.object({ title: z.string(), status: z.number(), code: z.string() })

/** ms after which a machine that does not answer is away, for short requests and for long ones. */
const SOON = 10_000
const LONG = 120_000
/** ms between tries to reach it again. */
const AGAIN = 700

export interface Roll {
  id: string
  family: FamilyId
}

/** The simulated machines, spoken to as devices of their own over HTTP and server-sent events. */
export class StandinDevice implements Device {
  constructor(private readonly at: { url: string; token: string } | undefined) {}

  /** Whether there are simulated machines in this installation at all. */
  get configured(): boolean {
    return !!this.at
  }

  private async ask(path: string, init: RequestInit & { within?: number } = {}): Promise<Response> {
    if (!this.at) throw away()
    const { within = SOON, ...own } = init
    let response: Response
    try {
      response = await fetch(new URL(path, this.at.url), {
        ...own,
        headers: { ...own.headers, Authorization: `Bearer ${this.at.token}` },
        signal: AbortSignal.timeout(within),
      })
    } catch {
      throw away()
    }
    if (response.ok) return response
    const told = problemBody.safeParse(await response.json().catch(() => null))
    if (!told.success || told.data.status >= 500) throw away()
    throw refused(told.data.code, told.data.title)
  }
  private json(path: string, method: string, body: unknown, within?: number): Promise<Response> {
    return this.ask(path, {
      method,
      within,
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
  }
  private async told(response: Promise<Response>): Promise<DeviceStatus> {
    return jobStatus.parse(await (await response).json())
  }

  async send({ id, machineId, name, path, roll }: Sent): Promise<DeviceStatus> {
    const q = new URLSearchParams({
      name,
      roll: roll.id,
      family: roll.family,
      ...(roll.colour && { colour: roll.colour }),
    })
    await this.ask(`/v1/machines/${machineId}/jobs/${id}?${q}`, {
      method: 'PUT',
      body: Readable.toWeb(createReadStream(path)) as ReadableStream,
      within: LONG,
      // a body that streams
      ...({ duplex: 'half' } as object),
    })
    return this.resume(id)
  }
  pause(id: string) {
    return this.told(this.ask(`/v1/jobs/${id}/pause`, { method: 'POST' }))
  }
  resume(id: string) {
    return this.told(this.ask(`/v1/jobs/${id}/start`, { method: 'POST' }))
  }
  stop(id: string) {
    return this.told(this.ask(`/v1/jobs/${id}/cancel`, { method: 'POST' }))
  }
  async status(id: string): Promise<DeviceStatus | null> {
    try {
      return await this.told(this.ask(`/v1/jobs/${id}`))
    } catch (error) {
      if (error instanceof ProblemException && error.problem.code === 'no-such-job') return null
      throw error
    }
  }
  async still(id: string): Promise<Buffer | null> {
    return Buffer.from(await (await this.ask(`/v1/jobs/${id}/camera`, { within: LONG })).arrayBuffer())
  }

  watch(tell: (status: DeviceStatus) => void, reached: (up: boolean) => void): () => void {
    const ended = new AbortController()
    void this.listen(tell, reached, ended.signal)
    return () => ended.abort()
  }

  private async listen(
    tell: (status: DeviceStatus) => void,
    reached: (up: boolean) => void,
    signal: AbortSignal,
  ): Promise<void> {
    const { at } = this
    while (at && !signal.aborted) {
      try {
        const response = await fetch(new URL('/v1/events', at.url), {
          headers: { Authorization: `Bearer ${at.token}` },
          signal,
        })
        if (!response.ok || !response.body) throw new Error(String(response.status))
        reached(true)
        const events = response.body
          .pipeThrough(new TextDecoderStream())
          .pipeThrough(new EventSourceParserStream())
        for await (const event of events as unknown as AsyncIterable<{ data: string }>) {
          const status = jobStatus.safeParse(JSON.parse(event.data))
          if (status.success) tell(status.data)
        }
      } catch {
        // it is away, or hung up
      }
      if (signal.aborted) return
      reached(false)
      await new Promise((r) => setTimeout(r, AGAIN))
    }
  }

  // what only a simulated machine can be asked

  async put(
    id: string,
    body: { name: string; machine: Machine; seed: number; hidden: number; pace: object },
  ): Promise<void> {
    await this.json(`/v1/machines/${id}`, 'PUT', body)
  }
  async setPace(id: string, pace: object): Promise<void> {
    await this.json(`/v1/machines/${id}/pace`, 'PUT', { pace })
  }
  async handle(id: string, what: string, roll: Roll): Promise<void> {
    await this.json(`/v1/machines/${id}/handled`, 'POST', { what, roll })
  }
  private ofRoll = (roll: Roll, more: Record<string, string> = {}) =>
    new URLSearchParams({ roll: roll.id, family: roll.family, ...more })
  async truth(id: string, roll: Roll): Promise<unknown> {
    return (await this.ask(`/v1/machines/${id}/truth?${this.ofRoll(roll)}`)).json()
  }
  async bed(id: string, roll: Roll): Promise<unknown> {
    return (await this.ask(`/v1/machines/${id}/bed?${this.ofRoll(roll)}`)).json()
  }
  async observe(id: string, roll: Roll, what: string, visit: number): Promise<unknown> {
    return (
      await this.ask(`/v1/machines/${id}/observed?${this.ofRoll(roll, { what, visit: String(visit) })}`)
    ).json()
  }
  async look(job: string, body: object): Promise<unknown> {
    return (await this.json(`/v1/jobs/${job}/look`, 'POST', body, LONG)).json()
  }
  async measure(job: string, body: object): Promise<unknown> {
    return (await this.json(`/v1/jobs/${job}/measure`, 'POST', body, LONG)).json()
  }
  async report(job: string, body: object): Promise<unknown> {
    return (await this.json(`/v1/jobs/${job}/report`, 'POST', body, LONG)).json()
  }
  /** A picture, and how its pixels lie on the machine, as JSON. */
  async picture(job: string, view: string, size: number): Promise<{ bytes: Buffer; lies: string }> {
    const q = new URLSearchParams({ view, size: String(size) })
    const response = await this.ask(`/v1/jobs/${job}/picture?${q}`, { within: LONG })
    return {
      bytes: Buffer.from(await response.arrayBuffer()),
      lies: response.headers.get('X-Picture') ?? '{}',
    }
  }
}

import type { Machine } from '@verimend/core/machine'
import { FAMILIES, type FamilyId } from '@verimend/core/material'
import { z } from 'zod'
import { ASPECTS } from '../inspect/grade'
import { HANDLING_IDS } from '../machine/handling'
import { OBSERVATION_IDS } from '../machine/observe'
import { PROPERTY_IDS } from '../machine/properties'
import { VIEWS } from '../picture/render'

const id = z.string().regex(/^[\w-]{1,60}$/, { error: 'An id is made of letters, digits and hyphens.' })
const mm = z.number().min(-1e5).max(1e5)

/** How fast time runs: so many times as fast as on a real machine, or each print within so many seconds. */
export const pace = z.union([
  z.object({ times: z.number().min(1).max(100_000) }),
  z.object({ within: z.number().min(0.2).max(3600) }),
])
export type Pace = z.infer<typeof pace>

/** A machine in the words of the core; checked for what the simulation uses. */
const machine = z
  .looseObject({
    nozzle: z.looseObject({ diameter: z.number().min(0.1).max(2) }),
    bed: z.looseObject({ width: z.number().min(10), depth: z.number().min(10) }),
    height: z.number().min(10),
    limits: z.looseObject({
      nozzle: z.number(),
      bed: z.number(),
      speed: z.number().gt(0),
      acceleration: z.number().gt(0),
    }),
  })
  .transform((m) => m as unknown as Machine)

export const putMachine = z.object({
  name: z.string().min(1).max(80),
  machine,
  seed: z
    .number()
    .int()
    .min(0)
    .max(2 ** 31),
  /** Properties broken by name, or so many drawn by the seed. */
  hidden: z.union([z.array(z.enum(PROPERTY_IDS)).max(5), z.number().int().min(0).max(5)]).default(0),
  pace: pace.default({ within: 8 }),
})
export type PutMachine = z.infer<typeof putMachine>

export const roll = z.object({ id, family: z.enum(FAMILIES) })
export interface Roll {
  id: string
  family: FamilyId
}

export const jobQuery = z.object({
  name: z.string().min(1).max(200),
  roll: id,
  family: z.enum(FAMILIES),
  colour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i)
    .optional(),
})

const region = z.object({ x0: mm, x1: mm, y0: mm, y1: mm, z0: mm, z1: mm })
/** Someone who looks: exactly, or as people do. */
const looker = z.object({
  eye: z.enum(['exact', 'person']).default('person'),
  seed: z.number().int().min(0).default(1),
})

export const lookQuery = looker.extend({
  places: z
    .array(z.object({ id: z.string().max(60), region, aspects: z.array(z.enum(ASPECTS)).max(13) }))
    .max(60),
})
export const measureQuery = looker.extend({
  places: z
    .array(
      z.object({
        id: z.string().max(60),
        region,
        what: z.enum(['outside', 'inside', 'wall', 'grams']),
        axis: z.enum(['x', 'y', 'z', 'd1', 'd2']).default('x'),
        repeats: z.number().int().min(1).max(10).default(1),
      }),
    )
    .max(60),
  step: z.number().min(0.0001).max(1).default(0.01),
})
const length = z.number().min(0.1).max(10_000)
/** `meant`: mm that it should measure over all; what its moves say when left out. */
export const reportQuery = looker.extend({ meant: z.object({ x: length, y: length, z: length }).optional() })
export const pictureQuery = z.object({
  view: z.enum(VIEWS),
  size: z.coerce.number().int().min(120).max(1600).default(900),
})
export const paceBody = z.object({ pace })
export const handleBody = z.object({ what: z.enum(HANDLING_IDS), roll: roll.optional() })
export const rollQuery = z.object({ roll: id, family: z.enum(FAMILIES) })
export const observeQuery = rollQuery.extend({
  what: z.enum(OBSERVATION_IDS),
  visit: z.coerce.number().int().min(0).max(1e6).default(0),
})

export const JOB_STATES = ['waiting', 'printing', 'paused', 'done', 'cancelled', 'failed'] as const
export type JobState = (typeof JOB_STATES)[number]

/** A job as it is kept and told. */
export interface Job {
  id: string
  machineId: string
  name: string
  roll: Roll
  colour: string | null
  state: JobState
  /** Why it failed, one sentence. */
  reason: string | null
  createdAt: string
  startedAt: string | null
  endedAt: string | null
  /** s of printing, as the machine moves; s done. */
  total: number
  done: number
  /** Tops of layers, mm, and when each ends, s. */
  layers: { z: number; ends: number }[]
  /** When heats are set, s, °C. */
  heats: { at: number; nozzle: number; bed: number }[]
  /** Order in the queue. */
  order: number
}

/** What is told of a job while it runs. */
export interface JobStatus extends Omit<Job, 'layers' | 'heats' | 'order'> {
  layer: number
  layerCount: number
  nozzle: number
  bed: number
  /** s of printing left, and s as this machine runs. */
  left: number
  leftHere: number
  /** Place in the queue, 0 when it prints. */
  waitsFor: number
}

import { z } from 'zod'
import { SURFACES } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import { dateText, idText, numberIn, revision, textUpTo, wholeIn } from './common'

export const machineSchema = z.object({
  name: textUpTo(80, 'The name', 1),
  nozzle: z.object({
    diameter: numberIn(0.1, 2, 'The nozzle', 'mm'),
    material: z.enum(['brass', 'hardened'], { error: 'The nozzle is brass or hardened.' }),
    changedOn: dateText('The day the nozzle was changed').nullable(),
  }),
  drive: z
    .object({
      kind: z.enum(['direct', 'tube'], { error: 'The drive is direct or through a tube.' }),
      tubeLength: numberIn(0, 3000, 'The tube', 'mm'),
      gear: numberIn(3, 200, 'A turn of the drive gear', 'mm').nullish(),
      steps: numberIn(1, 100_000, 'The drive’s steps', 'steps/mm').nullish(),
    })
    .refine((d) => d.kind === 'direct' || d.tubeLength > 0, {
      error: 'A tube-fed machine needs the length of its tube.',
      path: ['tubeLength'],
    }),
  frame: z.enum(['open', 'enclosed'], { error: 'The frame is open or enclosed.' }),
  hotEnd: z
    .enum(['lined', 'all-metal'], { error: 'The hot end is lined or all metal.' })
    .nullable()
    .default(null),
  meltZone: z
    .enum(['usual', 'high-flow'], { error: 'The melt zone is the usual one or made for high flow.' })
    .optional(),
  fan: z.object({ present: z.boolean(), strength: numberIn(0.2, 4, 'The fan’s strength') }),
  bed: z.object({
    shape: z.enum(['rectangle', 'round'], { error: 'The bed is a rectangle or round.' }),
    width: numberIn(40, 2000, 'The bed’s width', 'mm'),
    depth: numberIn(40, 2000, 'The bed’s depth', 'mm'),
    surface: z.enum(SURFACES, { error: 'Choose a bed surface from the list.' }),
    levelling: z.enum(['screws', 'probe'], { error: 'Levelling is by screws or by probe.' }),
    printsSinceLevel: wholeIn(0, 10_000, 'Prints since levelling').nullable(),
    printsSinceWash: wholeIn(0, 10_000, 'Prints since washing').nullable(),
    residual: numberIn(0, 3, 'The unevenness', 'mm').nullable(),
    screws: z
      .object({
        screws: z
          .array(
            z.object({
              name: textUpTo(30, 'The screw’s name', 1),
              x: numberIn(-2000, 2000, 'The screw’s X', 'mm'),
              y: numberIn(-2000, 2000, 'The screw’s Y', 'mm'),
            }),
          )
          .min(3, { error: 'A bed stands on three or four screws.' })
          .max(4, { error: 'A bed stands on three or four screws.' }),
        pitch: numberIn(0.1, 3, 'The screws’ pitch', 'mm'),
        clockwise: z.enum(['up', 'down'], { error: 'Clockwise the bed goes up or down.' }),
      })
      .nullish(),
  }),
  height: numberIn(20, 3000, 'The printable height', 'mm'),
  limits: z.object({
    nozzle: numberIn(150, 500, 'The nozzle’s top temperature', '°C'),
    bed: numberIn(0, 200, 'The bed’s top temperature', '°C'),
    speed: numberIn(10, 2000, 'The top speed', 'mm/s'),
    zSpeed: numberIn(0.5, 500, 'The top Z speed', 'mm/s'),
    acceleration: numberIn(50, 100_000, 'The acceleration', 'mm/s²'),
    travelAcceleration: numberIn(50, 100_000, 'The travel acceleration', 'mm/s²'),
    corner: z.discriminatedUnion('kind', [
      z.object({
        kind: z.literal('instant-change'),
        limit: numberIn(0.1, 100, 'The instant change', 'mm/s'),
      }),
      z.object({
        kind: z.literal('junction-deviation'),
        deviation: numberIn(0.001, 1, 'The deviation', 'mm'),
      }),
    ]),
  }),
  chamber: numberIn(20, 120, 'The chamber’s top temperature', '°C').nullable(),
  z: z.object({
    lead: numberIn(0.2, 40, 'The screw’s lead', 'mm'),
    stepsPerTurn: wholeIn(20, 2000, 'Steps a turn'),
  }),
  belt: z.object({
    pitch: numberIn(0.5, 20, 'The belt’s pitch', 'mm'),
    teeth: wholeIn(6, 200, 'The pulley’s teeth'),
  }),
  commands: z
    .object({
      feed: z.enum(['relative', 'absolute']),
      fan: z.enum(['bytes', 'fraction']),
      acceleration: z.enum(['split', 'single', 'none']),
      corner: z.enum(['change', 'deviation', 'none']),
      pressure: z.enum(['k', 's', 'none']),
      level: z.enum(['probe', 'kept', 'none']),
    })
    .optional(),
  assumed: z
    .array(textUpTo(60, 'A place', 1))
    .max(80, { error: 'At most 80 values are assumed.' })
    .optional(),
  notes: textUpTo(2000, 'The notes'),
}) satisfies z.ZodType<Machine>

export const machineRecord = z.object({
  id: idText,
  rev: revision,
  updatedAt: z.string(),
  machine: machineSchema,
})
export type MachineRecord = z.infer<typeof machineRecord>
export const createMachine = z.object({ id: idText.optional(), machine: machineSchema })
export const updateMachine = z.object({ rev: revision, machine: machineSchema })

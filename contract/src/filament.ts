import { z } from 'zod'
import { FAMILIES, FINISHES, type Filament } from '@verimend/core/material'
import { dateText, idText, numberIn, rangeIn, revision, textUpTo } from './common'

export const filamentSchema = z
  .object({
    name: textUpTo(80, 'The name', 1),
    maker: textUpTo(80, 'The maker'),
    family: z.enum(FAMILIES, { error: 'Choose a material family from the list.' }),
    finish: z.enum(FINISHES, { error: 'Choose a finish from the list.' }),
    colour: z
      .string()
      .regex(/^#[0-9a-fA-F]{6}$/, { error: 'The colour is written as # and six digits, such as #4c8a3f.' }),
    label: z.object({
      nozzle: rangeIn(150, 400, 'The label’s nozzle range', '°C').nullable(),
      bed: rangeIn(0, 160, 'The label’s bed range', '°C').nullable(),
      speed: rangeIn(1, 1000, 'The label’s speed range', 'mm/s').nullable(),
      drying: z
        .object({
          temperature: numberIn(30, 150, 'The drying temperature', '°C'),
          hours: numberIn(0.5, 72, 'The drying time', 'hours'),
        })
        .nullable(),
    }),
    diameter: numberIn(1, 3.2, 'The nominal diameter', 'mm'),
    measured: z
      .array(
        z.object({
          a: numberIn(1, 3.2, 'A measured diameter', 'mm'),
          b: numberIn(1, 3.2, 'A measured diameter', 'mm').nullable(),
        }),
      )
      .max(60, { error: 'At most 60 diameters are kept for a roll.' }),
    shore: numberIn(20, 100, 'The hardness', 'Shore A').nullable(),
    rollWeight: numberIn(10, 20_000, 'The roll’s weight', 'g'),
    weightLeft: numberIn(0, 20_000, 'What is left', 'g').nullable(),
    spoolWeight: numberIn(0, 5000, 'The empty spool', 'g').nullable(),
    price: z
      .object({
        amount: numberIn(0, 100_000, 'The price'),
        currency: textUpTo(6, 'The currency', 1),
      })
      .nullable(),
    openedOn: dateText('The day it was opened').nullable(),
    dryings: z
      .array(
        z.object({
          on: dateText('The day it was dried'),
          temperature: numberIn(30, 150, 'The dryer', '°C').nullable(),
          hours: numberIn(0.5, 200, 'The time in the dryer', 'hours').nullable(),
        }),
      )
      .max(200, { error: 'At most 200 dryings are kept for a roll.' }),
    abrasive: z.boolean(),
    notes: textUpTo(2000, 'The notes'),
  })
  .refine((f) => f.weightLeft === null || f.weightLeft <= f.rollWeight, {
    error: 'More is left than the roll held when new.',
    path: ['weightLeft'],
  })
  .refine(
    (f) =>
      f.measured.every((d) => Math.abs(d.a - f.diameter) < 0.4 && Math.abs((d.b ?? d.a) - f.diameter) < 0.4),
    {
      error: 'A measured diameter is far from the nominal one.',
      path: ['measured'],
    },
  ) satisfies z.ZodType<Filament>

export const filamentRecord = z.object({
  id: idText,
  rev: revision,
  updatedAt: z.string(),
  filament: filamentSchema,
})
export type FilamentRecord = z.infer<typeof filamentRecord>
export const createFilament = z.object({ id: idText.optional(), filament: filamentSchema })
export const updateFilament = z.object({ rev: revision, filament: filamentSchema })

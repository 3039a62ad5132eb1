import { z } from 'zod'
import { levels } from '../equipment/settings'

/**
 * What goes to a platform and comes back from it, in the words of ISA-95: classes, equipment, and streams of values. Each entry has
 * a key, which stays as it is whatever it is called; what others made over there has a key of theirs until it is matched.
 */

const keyField = z.string().max(100)
const text = (most: number) => z.string().max(most).catch('')
const scalar = z.union([z.boolean(), z.number(), z.string()])

/** What equipment of a class has: a constant, or a value that changes. */
export const cloudProperty = z.object({
  name: z.string().max(100),
  title: text(200).default(''),
  role: z.enum(['constant', 'value']),
  type: z.string().max(40).describe('The type of its values, as tags have it: bool, int32, float64, string and so on.'),
  unit: text(40).default(''),
  description: text(1000).default(''),
  value: scalar.nullable().default(null).describe('Of a constant: what equipment has that says nothing else.'),
})
export type CloudProperty = z.output<typeof cloudProperty>

export const cloudClass = z.object({
  key: keyField,
  name: z.string().max(200),
  parent: keyField.default('').describe('The key of the class that it is made from; empty: none.'),
  level: z.enum(levels).catch('work unit'),
  description: text(1000).default(''),
  properties: z.array(cloudProperty).max(1000).describe('Its own; it has those of its parent as well.'),
})
export type CloudClass = z.output<typeof cloudClass>

export const cloudEquipment = z.object({
  key: keyField,
  name: z.string().max(400),
  parent: keyField.default('').describe('The key of the equipment that it is part of; empty: of none.'),
  class: keyField.default('').describe('The key of its class; empty: none.'),
  level: z.enum(levels).catch('area'),
  description: text(1000).default(''),
  constants: z.record(z.string(), scalar).default({}).describe('Its own values of constants, by name.'),
  streams: z.record(z.string(), keyField).default({}).describe('The stream of each value that it has, by name.'),
  relations: z
    .array(z.object({ kind: z.string().max(100), to: keyField }))
    .max(100)
    .default([]),
})
export type CloudEquipment = z.output<typeof cloudEquipment>

/** How an entry is called over there, which is nobody else’s. */
const there = { id: z.string().max(200) }

/** The model as a platform has it. */
export const platformModel = z.object({
  classes: z.array(cloudClass.extend(there)).max(20_000),
  equipment: z.array(cloudEquipment.extend(there)).max(200_000),
})
export type PlatformModel = z.output<typeof platformModel>

/** A value at a moment: Unix milliseconds, the value, and its quality by the name of its status code unless that is Good. */
export type CloudSample = [at: number, value: CloudValue] | [at: number, value: CloudValue, quality: string]
export type CloudValue = null | boolean | number | string | CloudValue[]

export const cloudValue: z.ZodType<CloudValue> = z.lazy(() => z.union([z.null(), z.boolean(), z.number(), z.string(), z.array(cloudValue)]))
export const cloudSample = z.union([z.tuple([z.number(), cloudValue]), z.tuple([z.number(), cloudValue, z.string()])])

/** Samples of one stream, with what is to be known of it. */
export const streamSamples = z.object({
  key: keyField,
  path: z.string().max(400),
  type: z.string().max(40),
  unit: text(40).default(''),
  samples: z.array(cloudSample).describe('[time in Unix milliseconds, value] or, where its quality is not Good, [time, value, quality].'),
})
export type StreamSamples = z.output<typeof streamSamples>

/** Values on their way. Whoever is not sure whether one arrived sends it again under the same id. */
export const valueParcel = z.object({ id: z.string().max(100), streams: z.array(streamSamples) })
export type ValueParcel = z.output<typeof valueParcel>

/** What was not taken of parcels. */
export const refusedSamples = z.object({
  key: keyField.describe('Of the stream.'),
  count: z.int().min(1).catch(1),
  why: z.string().max(1000),
  /** Whether it may be taken later as it is. */
  later: z.boolean().default(false).describe('Whether the same may be taken later.'),
})
export type RefusedSamples = z.output<typeof refusedSamples>

export const takenValues = z.object({
  taken: z.int().min(0).describe('Samples that are there now, and were not before.'),
  refused: z.array(refusedSamples).max(100_000).default([]),
})
export type TakenValues = z.output<typeof takenValues>

/** One thing to do with the model over there. */
export const modelStep = z.discriminatedUnion('does', [
  z.object({ does: z.literal('put class'), id: z.string().default('').describe('Which one there; empty: a new one.'), put: cloudClass }),
  z.object({
    does: z.literal('put equipment'),
    id: z.string().default('').describe('Which one there; empty: a new one.'),
    put: cloudEquipment,
  }),
  z.object({ does: z.literal('remove class'), id: z.string() }),
  z.object({ does: z.literal('remove equipment'), id: z.string() }),
])
export type ModelStep = z.output<typeof modelStep>

/** What became of one. */
export const stepResult = z.object({ ok: z.boolean(), why: z.string().max(1000).default('').describe('Where it was refused: why.') })
export type StepResult = z.output<typeof stepResult>

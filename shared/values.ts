import { z } from 'zod'
import type { PointOptions } from '#core/links/protocol'
import { dataTypes, isArrayValue, type DataType, type ScalarValue, type TagValue } from '#core/tags/types'
import { faultContract } from './faults'
import { momentField } from '#core/contracts/fields'
import { valueNames } from './valueNames'

const wireScalar = z.union([z.boolean(), z.number(), z.string()])
type WireScalar = z.output<typeof wireScalar>

/** A value on its way to a page or program. What JSON has no number for, such as 64-bit integers, travels as text; the type tells. */
export const wireValue = z
  .union([wireScalar, z.array(wireScalar), z.null()])
  .describe('64-bit integers, and numbers that JSON does not have, as text; the type tells.')
export type WireValue = z.output<typeof wireValue>

export const toWire = (value: TagValue | undefined): WireValue => {
  if (value === undefined) return null
  return isArrayValue(value) ? value.map(scalarToWire) : scalarToWire(value)
}

const scalarToWire = (value: ScalarValue): WireScalar => {
  if (typeof value === 'bigint') return value.toString()
  if (typeof value === 'number' && !Number.isFinite(value)) return String(value)
  return value
}

/** A tag's value on its way to a page. */
export interface LiveValue {
  /** The tag. */
  id: number
  value: WireValue
  type: DataType
  /** An OPC UA status code (OPC 10000-4, 7.39); 0 is Good. */
  quality: number
  /** When the source had this value, and when it was last confirmed; Unix milliseconds. */
  sourceTime: number
  seenAt: number
}

const valueStage = z
  .object({
    title: z.string(),
    text: z.string(),
    detail: z.string(),
    at: momentField.optional().describe('When, Unix milliseconds; shown in local time after the detail.'),
  })
  .meta({ id: 'ValueStage', description: 'One step on the way from the bytes to the consumers.' })
export type ValueStage = z.output<typeof valueStage>

export const reason = z
  .object({ speaks: z.enum(['for', 'against']), text: z.string() })
  .meta({ id: 'Reason', description: 'What speaks for or against a reading.' })

export const readingRow = z
  .object({
    label: z.string(),
    takes: z
      .object({ type: z.enum(dataTypes), options: z.custom<PointOptions>() })
      .nullable()
      .describe('The type and the options of a tag that reads it so; null: none does.'),
    text: z.string(),
    value: z.number().nullable().describe('The same as a number, where it is one.'),
    reasons: z.array(reason),
    plausible: z.boolean().describe('Whether something speaks for it, and nothing against it.'),
    inUse: z.boolean(),
  })
  .meta({ id: 'ReadingRow', description: 'One of the ways to read the same bytes.' })
export type ReadingRow = z.output<typeof readingRow>

/** How a value is made: the bytes, each stage, other readings of the same bytes, and who gets it. */
export const valueOrigin = z
  .object({
    stages: z.array(valueStage),
    readings: z.array(readingRow),
    wordsFrom: z.string().describe('Where the words of the readings come from.'),
    goesTo: z.array(z.string()),
    fault: faultContract.nullable(),
    outline: z.string().optional().describe('What came, as JSON to point into, where parts of it can be values; long lists are shortened.'),
    told: z
      .object({
        address: z.string(),
        type: z.enum(dataTypes),
        writable: z.boolean(),
        unit: z.string(),
        names: valueNames.optional(),
        description: z.string(),
      })
      .optional()
      .describe('What the far side says of the point itself, where it does.'),
  })
  .meta({
    id: 'ValueOrigin',
    description: 'How a value is made: the bytes, each stage, other readings of the same bytes, and who gets it.',
  })
export type ValueOrigin = z.output<typeof valueOrigin>

export type WriteResult = { ok: true; readBack: WireValue } | { ok: false; fault: z.output<typeof faultContract> }

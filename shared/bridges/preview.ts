import { z } from 'zod'
import { bridgeContract } from '#core/bridges/settings'
import { idField, momentField } from '#core/contracts/fields'
import { dataTypes } from '#core/tags/types'
import { faultContract } from '../faults'

/** What a bridge would send now: it is worked out as a run is, and nothing leaves. */

const previewedField = z.object({
  into: z.string(),
  type: z.string().nullable().describe('As the destination calls it; null: not known now.'),
  now: z.string().nullable().describe('What comes from here; null: nothing.'),
  comes: z.enum(dataTypes).nullable().describe('The type of what comes, so that a column can be made for it; null: nothing tells.'),
  how: z.enum(['exact', 'rounds', 'cut', 'range', 'type', 'null']).nullable().describe('How it fits; null: not known.'),
  text: z.string().describe('What becomes of it, where it does not fit as it is.'),
})

export const bridgePreview = z
  .object({
    by: z.string().describe('What it is made from, in words.'),
    message: z.string().nullable().describe('The message that it is made from, as text; null: there is none, or it is too long.'),
    fault: faultContract.nullable().describe('Why there is nothing.'),
    inputs: z.array(
      z.object({
        name: z.string(),
        text: z.string(),
        good: z.boolean(),
        parts: z.array(z.string()).describe('Of a row or an object, the names of what it has.'),
      }),
    ),
    unknown: z.array(z.string()).describe('Paths and patterns of paths that no tag goes by.'),
    destinations: z.array(
      z.object({
        number: z.int(),
        fields: z.array(previewedField),
        lines: z.array(z.string()).describe('What would leave, in the form in which it would.'),
        fault: faultContract.nullable(),
      }),
    ),
  })
  .meta({ id: 'BridgePreview' })
export type BridgePreview = z.output<typeof bridgePreview>

/** A message to try a bridge with, where one sets it off. */
export const sampleMessage = z.object({ topic: z.string().max(70_000), payload: z.string().max(1_000_000) })
export type SampleMessage = z.output<typeof sampleMessage>

export const bridgeTrial = z.object({
  bridge: bridgeContract,
  bridgeId: idField('A bridge').nullable().default(null).describe('The saved bridge: the last message that set it off is taken.'),
  message: sampleMessage.nullable().default(null),
})

/** A value of a record that is set right; null: none. */
export const refusedValue = z.object({ into: z.string().max(240), text: z.string().max(100_000).nullable() })
export type RefusedValue = z.output<typeof refusedValue>

/** A record that was refused and lies aside. */
export const refusedRecord = z
  .object({
    key: z.string(),
    destination: z.int(),
    at: momentField.describe('When it was refused.'),
    madeAt: momentField,
    fields: z.array(z.object({ into: z.string(), text: z.string() })),
    fault: faultContract,
  })
  .meta({ id: 'RefusedRecord' })
export type RefusedRecord = z.output<typeof refusedRecord>

/** What became of refused records that were to be sent or dropped. */
export const settledRecords = z.object({
  settled: z.int(),
  unfit: z.int().describe('Made for other fields than the destination has now; they can only be dropped.'),
})
export type SettledRecords = z.output<typeof settledRecords>

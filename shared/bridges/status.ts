import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { faultContract } from '../faults'
import { flow } from '../flow'

/** What the engine tells of bridges. */

const deliveryStatus = z
  .object({
    number: z.int().describe('The number of the destination within its bridge.'),
    kind: z.enum(['tags', 'topic', 'outlet', 'table', 'file', 'call']),
    flow,
    fault: faultContract.nullable(),
    kept: z.int().describe('Records that wait for the receiver.'),
    keptBytes: z.int(),
    oldestAt: momentField.nullable().describe('When the oldest of them was made.'),
    delivered: z.int().describe('Since the bridge was switched on, as are the next two.'),
    refused: z.int().describe('By the receiver, for good.'),
    aside: z.int().describe('Of what was refused, now or before: what still lies aside.'),
    dropped: z.int().describe('Given up, as was chosen.'),
  })
  .meta({ id: 'DeliveryStatus' })
export type DeliveryStatus = z.output<typeof deliveryStatus>

export const bridgeStatus = z
  .object({
    id: z.int(),
    flow,
    sentence: z.string().describe('What is happening, for a person.'),
    fault: faultContract.nullable(),
    since: momentField.nullable().describe('When it was switched on; null: it is off.'),
    runs: z.int(),
    skipped: z.int().describe('Runs for want of an input.'),
    failed: z.int().describe('Runs of which nothing came, because of what they were to be made from.'),
    perSecond: z.number().describe('Runs.'),
    destinations: z.array(deliveryStatus),
  })
  .meta({ id: 'BridgeStatus' })
export type BridgeStatus = z.output<typeof bridgeStatus>

const runOutcome = z.enum(['under way', 'sent', 'kept', 'skipped', 'failed', 'refused', 'dropped'])
export type RunOutcome = z.output<typeof runOutcome>

export const bridgeRun = z
  .object({
    number: z.int(),
    at: momentField.describe('When it began.'),
    by: z.string().describe('What set it off, in words.'),
    outcome: runOutcome,
    ms: z.number().nullable().describe('From the trigger to the last receiver; null: not there yet.'),
    shapeMs: z.number().describe('For taking and shaping.'),
    inputs: z.array(z.object({ name: z.string(), text: z.string(), good: z.boolean() })),
    sent: z.array(
      z.object({
        number: z.int(),
        text: z.string().describe('What was sent.'),
        outcome: runOutcome,
        ms: z.number().nullable(),
        fault: faultContract.nullable(),
      }),
    ),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'BridgeRun' })
export type BridgeRun = z.output<typeof bridgeRun>

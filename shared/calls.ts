import { z } from 'zod'
import { callOutcomes } from '#core/calls/call'
import { momentField } from '#core/contracts/fields'
import { clientTotal, numberedCaller } from './statistics'

export const clientCall = z
  .object({
    n: z.int(),
    at: momentField,
    client: numberedCaller,
    service: z.string().describe('What was asked for, in the words of the protocol.'),
    outcome: z.enum(callOutcomes).describe('Partly: some of its items were refused.'),
    status: z.string(),
    ms: z.number().nullable().describe('How long the answer took; null: that is not known, or there is none.'),
    isTold: z.boolean().describe('Nobody asked for it: the client subscribed to it, or listens.'),
    items: z.array(
      z.object({ what: z.string(), value: z.string().nullable(), status: z.string(), refused: z.boolean() }).meta({ id: 'CallItem' }),
    ),
    more: z.int().describe('Items that are not listed.'),
  })
  .meta({ id: 'ClientCall', description: 'What a client asked or was told: items, values, and what was answered.' })
export type ClientCall = z.output<typeof clientCall>

export const callPage = z.object({
  calls: z.array(clientCall).describe('The newest first.'),
  last: z.int().describe('The number of the last call of all.'),
  first: z.int().describe('The number of the oldest that is held.'),
})
export type CallPageShown = z.output<typeof callPage>

export const callTotals = z.object({
  since: momentField,
  clients: z.array(clientTotal).describe('The busiest first.'),
  vain: z
    .array(z.object({ client: numberedCaller, what: z.string(), why: z.string(), times: z.int(), at: momentField }))
    .describe('What was asked for in vain, the most often first.'),
  vainOthers: z.int().describe('How often others were asked for in vain.'),
})
export type CallTotals = z.output<typeof callTotals>

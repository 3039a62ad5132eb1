import { z } from 'zod'
import { payloadForms } from '#core/messages/form'
import { momentField } from '#core/contracts/fields'

export const unclaimedTopic = z
  .object({
    topic: z.string(),
    count: z.int().describe('Messages since it was first seen.'),
    perSecond: z.number(),
    form: z.enum(payloadForms),
    last: z.string().describe('The last payload in one line.'),
    bytes: z.int().describe('Its length.'),
    at: momentField.describe('When it came, Unix milliseconds.'),
  })
  .meta({ id: 'UnclaimedTopic', description: 'A topic on which messages come that nobody claims.' })
export type UnclaimedTopic = z.output<typeof unclaimedTopic>

export interface UnclaimedStatus {
  /** The busiest first. */
  topics: UnclaimedTopic[]
  count: number
  /** Topics that made room for others: there are more than are remembered. */
  gaveWay: number
}

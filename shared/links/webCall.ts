import { z } from 'zod'
import { faultContract } from '../faults'

/** One call of a web API, made to look at what it says. */
export const callOutcome = z
  .object({
    request: z.string().describe('Method and address, as they went out; without what shows whose they are.'),
    status: z.int().nullable().describe('Null: no answer came.'),
    words: z.string().describe('The status in words.'),
    ms: z.number().nullable(),
    headers: z.array(z.object({ name: z.string(), value: z.string() })),
    body: z.string().describe('As text, cut off after 200,000 characters.'),
    bytes: z.int(),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'CallOutcome' })
export type CallOutcome = z.output<typeof callOutcome>

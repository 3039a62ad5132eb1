import { z } from 'zod'
import { operationContract } from '#core/http/settings'
import { faultContract } from '../faults'

/** One call of a web API, made to look at what it says. */
export const callOutcome = z
  .object({
    request: z.string().describe('Method and address, as they went out; without what shows whose they are.'),
    status: z.int().nullable().describe('Null: no answer came.'),
    words: z.string().describe('The status in words.'),
    ms: z.number().nullable(),
    headers: z.array(z.object({ name: z.string(), value: z.string() })),
    body: z.string().describe('As text; a longer one than 200,000 characters is shortened.'),
    shortened: z.enum(['no', 'lists', 'cut']).describe('Lists: only their first elements are shown. Cut: only its beginning.'),
    bytes: z.int(),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'CallOutcome' })
export type CallOutcome = z.output<typeof callOutcome>

/** What a description of a web API says (OpenAPI 3.0 and 3.1). */
export const apiDescription = z
  .object({
    title: z.string(),
    base: z.string().nullable().describe('The base address of its first server; null: it names none.'),
    signIn: z
      .discriminatedUnion('kind', [
        z.object({ kind: z.literal('basic') }),
        z.object({ kind: z.literal('bearer') }),
        z.object({ kind: z.literal('key'), in: z.enum(['header', 'query']), name: z.string() }),
        z.object({ kind: z.literal('oauth'), tokenAddress: z.string(), scope: z.string() }),
      ])
      .nullable()
      .describe('How it says that calls show whose they are.'),
    operations: z.array(
      z.object({
        operation: operationContract,
        about: z.string(),
        note: z.string().describe('What of it is to be seen to by a person; empty: nothing.'),
      }),
    ),
    left: z.array(z.object({ what: z.string(), why: z.string() })).describe('What of it cannot be taken.'),
  })
  .meta({ id: 'ApiDescription' })
export type ApiDescription = z.output<typeof apiDescription>

import { z } from 'zod'
import { faultContract } from './faults'

/** Who writes a value, by which way, and from where. */
export const writer = z.object({
  who: z.string().max(200),
  via: z.enum(['page', 'token', 'client', 'bridge']),
  place: z.string().max(200).describe('The address or outlet that it came by.'),
})
export type Writer = z.output<typeof writer>

/** A record of a write, as pages and programs get it. */
export const listedWrite = writer
  .extend({
    id: z.int(),
    at: z.iso.datetime(),
    tagId: z.int().nullable(),
    path: z.string(),
    before: z.string().nullable(),
    value: z.string(),
    ok: z.boolean(),
    ms: z.number(),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'ListedWrite', description: 'A value that was written to the plant: by whom, what, and what came of it.' })
export type ListedWrite = z.output<typeof listedWrite>

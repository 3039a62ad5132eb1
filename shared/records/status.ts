import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { faultContract } from '../faults'
import { flow } from '../flow'

/** What the engine tells of a record set. */
export const recordSetStatus = z
  .object({
    id: z.int(),
    flow,
    sentence: z.string().describe('What is happening, for a person.'),
    fault: faultContract.nullable(),
    tags: z.int(),
    goodTags: z.int(),
    readMs: z.number().nullable().describe('How long the last reading took, ms.'),
    changes: z.int().describe('How often the set changed since it was switched on.'),
    wholeAt: momentField.nullable().describe('When it was whole; null: not yet.'),
    count: z.int().nullable().describe('How many rows there are.'),
    position: z.int().nullable().describe('Of a cursor: which row it points at, counted from 1; 0: none.'),
    key: z.string().nullable().describe('Of a cursor: the key of that row.'),
  })
  .meta({ id: 'RecordSetStatus' })
export type RecordSetStatus = z.output<typeof recordSetStatus>

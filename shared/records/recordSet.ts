import { z } from 'zod'
import { idField, savedShape } from '#core/contracts/fields'
import { itemParts, type ItemPart } from '#core/records/items'
import { recordSetContract, type RecordSetDraft } from '#core/records/settings'
import { scalarTypes } from '#core/tags/types'
import { faultContract } from '../faults'

/** A saved record set. `revision` is the site revision that last changed it. */
export interface RecordSet extends RecordSetDraft {
  id: number
  revision: number
}
export const savedRecordSet: z.ZodType<RecordSet> = recordSetContract.extend(savedShape).meta({ id: 'RecordSet' })

/** Changes name the revision they started from, so that two people cannot overwrite each other unseen. */
export const recordSetChange = z.object({ revision: idField('A revision'), recordSet: recordSetContract })

export const mostPreviewed = 50
export const mostPreviewedTags = 200

const given = z.record(z.string().max(63), z.union([z.boolean(), z.number(), z.string().max(4096)]))

export const recordSetTrial = z.object({
  recordSet: recordSetContract,
  setId: idField('A record set').nullable().default(null).describe('The saved one: which row it points at is told.'),
  run: given.nullable().default(null).describe('Of a procedure: runs it, with these values for its parameters; null: nothing runs.'),
})

const previewedColumn = z.object({
  name: z.string(),
  declared: z.string().describe('As the database calls its type.'),
  type: z.enum(scalarTypes),
  note: z.string().describe('What is to be known of how it is passed on; empty: nothing.'),
})

const parts = [...itemParts] as [ItemPart, ...ItemPart[]]

export const recordSetPreview = z
  .object({
    fault: faultContract.nullable().describe('Why there are no rows.'),
    columns: z.array(previewedColumn),
    rows: z.array(z.array(z.string().nullable())).describe('The first of them, in the order of the columns; null: null.'),
    total: z.int().nullable().describe('How many rows there are; null: nobody counted.'),
    parameters: z.array(previewedColumn).describe('Of a procedure: what goes into it.'),
    at: z.int().nullable().describe('Of a cursor: which of these rows it points at, counted from 0; null: none of them.'),
    tags: z
      .array(
        z.object({
          path: z.string(),
          part: z.enum(parts),
          column: z.string(),
          row: z.string(),
          type: z.enum(scalarTypes),
          access: z.enum(['read', 'readwrite']),
          description: z.string(),
          note: z.string(),
        }),
      )
      .describe('The first of the tags that come of it.'),
    tagCount: z.int().describe('How many tags come of the rows there are.'),
  })
  .meta({ id: 'RecordSetPreview' })
export type RecordSetPreview = z.output<typeof recordSetPreview>

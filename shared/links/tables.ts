import { z } from 'zod'
import { lineField } from '#core/contracts/fields'

/** Tables of the databases that links go to. */

export const tablePlace = z.object({ schema: lineField('A schema', 63), table: lineField('A table', 63) }).meta({ id: 'TablePlace' })
export type TablePlace = z.output<typeof tablePlace>

export const listedTable = tablePlace.extend({ kind: z.enum(['table', 'view', 'procedure']) }).meta({ id: 'ListedTable' })
export type ListedTable = z.output<typeof listedTable>

export const tableColumn = z
  .object({
    name: z.string(),
    type: z.string().describe('As the database calls it.'),
    nullable: z.boolean(),
    hasDefault: z.boolean(),
    isGenerated: z.boolean(),
    isKey: z.boolean(),
  })
  .meta({ id: 'TableColumn' })
export type TableColumn = z.output<typeof tableColumn>

const column = lineField('A column', 63)

export const newTable = z.object({
  schema: lineField('A schema', 63).default(''),
  table: lineField('A table', 63).min(1, 'A table needs a name.'),
  columns: z
    .array(z.object({ name: column.min(1, 'A column has a name.'), type: z.string().max(60), nullable: z.boolean().default(true) }))
    .min(1, 'A table has at least one column.')
    .max(200, 'At most 200 columns.'),
  key: z.array(column).max(16).default([]).describe('Columns by which a row is found again.'),
  indexed: column.default('').describe('A column with an index of its own; empty: none.'),
  parted: column.default('').describe('A column of times by which the table is parted; empty: none.'),
  partedPer: z.enum(['day', 'month']).default('month').describe('What a part of it holds.'),
})

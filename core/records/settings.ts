import { z } from 'zod'
import { idField, lineField, milliseconds, nameField, wholeNumber } from '../contracts/fields'
import { inputName, timelyTriggers } from '../bridges/settings'
import { pathProblem } from '../tags/path'

/** Rows of a database as tags: what is asked for, how often, and what becomes of it. */

/** So many tags a set has at most. */
export const mostTags = 100_000
const mostColumns = 200

const nameOfColumn = lineField('A column', 63)
const columnField = nameOfColumn.min(1, 'A column has a name.')
const statementField = z
  .string({ error: 'A statement is text.' })
  .trim()
  .min(1, 'A statement that asks for rows, as in select ship, limit_kw from voyage.')
  .max(4000, 'At most 4,000 characters.')

const fromContract = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('table'),
    schema: lineField('A schema', 63).default('').describe('Empty: the one that the database looks into first.'),
    table: lineField('A table', 63).min(1, 'Which table, or view.'),
  }),
  z.object({ kind: z.literal('query'), statement: statementField }),
])
export type RowsFrom = z.output<typeof fromContract>

const columns = z
  .array(columnField)
  .max(mostColumns, `At most ${mostColumns} columns.`)
  .default([])
  .describe('Those that become tags, in this order; none: all of them.')
const writes = z
  .array(columnField)
  .max(mostColumns, `At most ${mostColumns} columns.`)
  .default([])
  .describe('Columns that consumers may write back into the table.')
const order = nameOfColumn.default('')

const againContract = z
  .object({
    every: milliseconds('The time between two readings', 100, 86_400_000)
      .nullable()
      .default(60_000)
      .describe('Null: only when something moved, or on request.'),
    stamp: nameOfColumn.default('').describe('A column that grows with every change, a time or a number; empty: none does.'),
    look: milliseconds('The time between two looks', 100, 3_600_000)
      .default(1000)
      .describe('How often it is looked whether that column moved.'),
  })
  .prefault({})
export type Again = z.output<typeof againContract>

const snapshotContract = z.object({
  kind: z.literal('snapshot'),
  from: fromContract,
  columns,
  key: nameOfColumn.default('').describe('The column that names the rows; empty: they are numbered in their order.'),
  order: order.describe('The column that they are in the order of; empty: by the key.'),
  most: wholeNumber('The number of rows', 1, 50_000).default(1000).describe('More rows than this are refused as a whole.'),
  again: againContract,
  writes,
  gone: z
    .enum(['keep', 'remove'])
    .default('keep')
    .describe('What becomes of the tags of a row that is there no more: they stay and say so, or go.'),
})
export type SnapshotSettings = z.output<typeof snapshotContract>

export const moves = ['next', 'previous', 'first', 'last', 'number', 'key'] as const
export type Move = (typeof moves)[number]

const cursorContract = z.object({
  kind: z.literal('cursor'),
  from: fromContract,
  columns,
  key: columnField.describe('The column that tells rows apart.'),
  order: order.describe('The column that rows are in the order of; empty: the key.'),
  descending: z.boolean().default(false),
  most: wholeNumber('The number of rows', 1, 200_000).default(10_000).describe('More rows than this are refused as a whole.'),
  starts: z
    .enum(['first', 'last', 'kept'])
    .default('kept')
    .describe('Where it points at first; “kept”: where it pointed before, and at the first row where that is nowhere.'),
  again: againContract,
  moves: z
    .array(z.enum(moves))
    .default([...moves])
    .describe('What consumers may do: to a number is “number”, to a key “key”.'),
  writes,
})
export type CursorSettings = z.output<typeof cursorContract>

const start = z.union([z.boolean(), z.number(), z.string().max(4096, 'A value has at most 4,096 characters.')])

const procedureContract = z.object({
  kind: z.literal('procedure'),
  schema: lineField('A schema', 63).default('').describe('Empty: the one that the database looks into first.'),
  routine: lineField('A procedure', 63).min(1, 'Which procedure, or function.'),
  start: z
    .array(z.object({ parameter: columnField, value: start }))
    .max(100, 'At most 100 parameters.')
    .default([])
    .describe('What parameters hold before anybody writes them.'),
  rows: wholeNumber('The number of rows', 1, 1000).default(1).describe('Of the first result; 1: its first row.'),
  atOnce: z.boolean().default(false).describe('Runs by itself when a parameter was written.'),
})
export type ProcedureSettings = z.output<typeof procedureContract>

const queryContract = z.object({
  kind: z.literal('query'),
  statement: statementField.describe('What stands in braces is worked out for each reading and handed over beside the text.'),
  take: z
    .array(z.object({ name: inputName, path: z.string().trim().min(1, 'The path of a tag.').max(240, 'At most 240 characters.') }))
    .max(50, 'At most 50 parameters.')
    .default([])
    .describe('Tags that the statement names.'),
  when: z
    .array(timelyTriggers)
    .max(20, 'At most 20 triggers.')
    .default([{ kind: 'period', every: 10_000 }]),
  rows: wholeNumber('The number of rows', 1, 10_000).default(1).describe('1: its first row.'),
  key: nameOfColumn.default('').describe('Of several rows: the column that names them; empty: they are numbered.'),
})
export type QuerySettings = z.output<typeof queryContract>

export const howContract = z.discriminatedUnion('kind', [snapshotContract, cursorContract, procedureContract, queryContract])
export type How = z.output<typeof howContract>
export type SetKind = How['kind']

export const recordSetContract = z
  .object({
    name: nameField('record set'),
    linkId: idField('A link'),
    on: z.boolean().default(true),
    folder: z
      .string({ error: 'A record set needs a folder.' })
      .trim()
      .max(160, 'A folder has at most 160 characters.')
      .superRefine((path, context) => {
        const problem = path === '' ? 'The folder that its tags stand in, as in call_book/profile.' : pathProblem(path)
        if (problem) context.addIssue({ code: 'custom', message: problem })
      }),
    nulls: lineField('A value', 200)
      .nullable()
      .default(null)
      .describe('What stands in place of null where it fits the column; null: such a value is bad.'),
    how: howContract,
  })
  .meta({ id: 'RecordSetDraft' })
export type RecordSetDraft = z.output<typeof recordSetContract>

import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { delimiters } from '#core/formats/csv/dialect'
import { encodings } from '#core/formats/csv/encoding'
import { decimalSigns } from '#core/formats/csv/numbers'
import { faultContract } from './faults'
import { newPath, usualColumns } from './tagCsv/header'

const columnName = z.enum([newPath, ...usualColumns])

/** How a table of tags is to be read, and what it means. */
export const importSettings = z.object({
  encoding: z.enum(encodings).nullable().default(null).describe('Null: as found.'),
  delimiter: z.enum(delimiters).nullable().default(null).describe('What divides cells. Null: as found.'),
  decimal: z.enum(decimalSigns).nullable().default(null).describe('The decimal sign. Null: as found.'),
  header: z.boolean().nullable().default(null).describe('Whether the first line names the columns. Null: as found.'),
  columns: z
    .array(columnName.nullable())
    .max(1000, 'At most 1,000 columns.')
    .nullable()
    .default(null)
    .describe('What stands in each column of the file; null among them: left out. Null: by their names.'),
  missing: z.enum(['stay', 'remove']).default('stay').describe('What becomes of tags that the file does not name.'),
  below: z.string().max(240).default('').describe('Of those, only tags in this folder are removed, at any depth.'),
  link: idField('A link').nullable().default(null).describe('Of those, only tags of this link are removed.'),
  program: z
    .boolean()
    .default(false)
    .describe('The file comes from a program of this link: it is compared with the one before, and what somebody changed since is kept.'),
})
export type ImportSettings = z.output<typeof importSettings>

export const outcomes = ['added', 'changed', 'removed', 'refused', 'same'] as const
export type Outcome = (typeof outcomes)[number]

const count = z.int().min(0)

/** A table of tags that was sent, and what it comes to. */
export const importStatus = z
  .object({
    id: z.int(),
    name: z.string().describe('The file’s name.'),
    who: z.string(),
    state: z
      .enum(['reading', 'ready', 'unreadable', 'applying', 'applied'])
      .describe('`ready`: the plan is there; `unreadable`: it cannot be, and `fault` says why.'),
    done: z.number().describe('How far reading or applying is, from 0 to 1.'),
    settings: importSettings,
    found: z
      .object({
        encoding: z.enum(encodings),
        delimiter: z.enum(delimiters),
        decimal: z.enum(decimalSigns),
        header: z.boolean(),
        columns: z.array(z.object({ title: z.string(), column: z.string().nullable() })),
      })
      .nullable()
      .describe('How the file is read.'),
    lines: count.describe('Lines with something in them, without the header.'),
    counts: z.object({ added: count, changed: count, removed: count, refused: count, same: count }),
    kept: count.describe('Tags of which somebody changed something since the file before, which stays.'),
    before: z.string().nullable().describe('The name of the file before, where this one is compared with it.'),
    fault: faultContract.nullable().describe('Why it cannot be read, or why the last try to apply it changed nothing.'),
    revision: z.int().nullable().describe('The revision that it became.'),
  })
  .meta({ id: 'Import' })
export type ImportStatus = z.output<typeof importStatus>

/** One line of the plan. */
export const importLine = z
  .object({
    what: z.enum(outcomes),
    line: z.int().nullable().describe('In the file, from 1; null: the file does not name this tag.'),
    path: z.string(),
    cells: z.record(z.string(), z.string()).describe('By column, as they will be; of refused lines, as they are in the file.'),
    before: z.record(z.string(), z.string()).describe('By column, what the cells that change hold now.'),
    kept: z.record(z.string(), z.string()).describe('By column, what the file says as it did before, and somebody changed since.'),
    problems: z.array(z.object({ column: z.string().nullable(), message: z.string() })).describe('Why it is refused.'),
  })
  .meta({ id: 'ImportLine' })
export type ImportLine = z.output<typeof importLine>

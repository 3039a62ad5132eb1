import { z } from 'zod'
import { delimiters } from '#core/formats/csv/dialect'
import { encodings } from '#core/formats/csv/encoding'
import { decimalSigns } from '#core/formats/csv/numbers'
import { lineField, numberText } from '#core/contracts/fields'
import { loadChange } from '../load'
import { importLine, importSettings, importStatus, outcomes } from '../imports'
import { listQuery, pageOf } from './lists'
import { fileBody, operation } from './operation'

const group = 'Tags as a table'

const yesNo = z.enum(['yes', 'no']).transform((word) => word === 'yes')

export const sendTable = operation('POST /imports', {
  group,
  needs: 'configure',
  does: 'Takes a table of tags (CSV) and works out what it comes to. Nothing is changed by it.',
  query: {
    name: lineField('A name', 240).default('tags.csv').describe('The file’s name.'),
    encoding: z.enum(encodings).optional().describe('As found, if absent.'),
    delimiter: z.enum(delimiters).optional().describe('As found, if absent.'),
    decimal: z.enum(decimalSigns).optional().describe('As found, if absent.'),
    header: yesNo.optional().describe('Whether the first line names the columns; as found, if absent.'),
    missing: importSettings.shape.missing.describe('What becomes of tags that the file does not name.'),
    below: importSettings.shape.below,
    program: yesNo
      .default(false)
      .describe('The file comes from a program of this link: what somebody changed since the one before is kept.'),
    link: numberText(1).optional().describe('Of those that the file does not name, only tags of this link are removed.'),
  },
  body: fileBody,
  size: 'file',
  answer: importStatus,
  faults: ['import.many'],
})

export const showImport = operation('GET /imports/{id}', {
  group,
  needs: 'configure',
  does: 'How far a table is. Waits until it is read or applied, for as long as is asked.',
  query: { wait: numberText(0, 20_000).default(0).describe('How long to wait at most, ms.') },
  answer: importStatus,
  faults: ['import.gone'],
})

export const listImports = operation('GET /imports', {
  group,
  needs: 'configure',
  does: 'The tables that were sent and not put away.',
  query: listQuery(['-id', 'name', 'who']),
  answer: pageOf(importStatus),
})

export const listImportLines = operation('GET /imports/{id}/lines', {
  group,
  needs: 'configure',
  does: 'What the lines of a table come to.',
  query: { ...listQuery(['line', 'path']), what: z.enum(outcomes).optional().describe('Only lines that come to this.') },
  answer: pageOf(importLine),
  faults: ['import.gone', 'import.busy'],
})

export const loadImport = operation('GET /imports/{id}/load', {
  group,
  needs: 'configure',
  does: 'What a table does to the plant: what it asks of each link that it touches, as it is and as it would be.',
  answer: z.array(loadChange.extend({ id: z.int().describe('The link.'), name: z.string() })),
  faults: ['import.gone', 'import.busy'],
})

export const readImportAgain = operation('PUT /imports/{id}', {
  group,
  needs: 'configure',
  does: 'Reads a table that was sent in another way, or against the tags as they are now.',
  body: importSettings,
  example: { decimal: ',', missing: 'stay' },
  answer: importStatus,
  faults: ['import.gone', 'import.busy', 'import.done'],
})

export const applyImport = operation('POST /imports/{id}/apply', {
  group,
  needs: 'configure',
  does: 'Applies what was planned, all or a part of it, in one revision. Ask how far it is afterwards.',
  body: z.object({
    without: z.array(z.string().max(500)).max(100_000).default([]).describe('Paths whose lines are left out.'),
  }),
  example: { without: [] },
  size: 'many',
  answer: importStatus,
  faults: ['import.gone', 'import.busy', 'import.done', 'import.nothing'],
})

export const putImportAway = operation('DELETE /imports/{id}', {
  group,
  needs: 'configure',
  does: 'Forgets a table; stops what goes on with it.',
  answer: z.object({ revision: z.int().nullable().describe('What it became, where it was applied already; null: nothing was changed.') }),
  faults: ['import.gone'],
})

import { checks, walk } from './pathChecks'
import { z } from 'zod'
import { idField, numberText } from '#core/contracts/fields'
import { delimiters } from '#core/formats/csv/dialect'
import { decimalSigns } from '#core/formats/csv/numbers'
import { place } from '../browse'
import { tagNote } from '../notes'
import { pointSource } from '../sources/point'
import { sourceKinds } from '../sources/registry'
import { usualColumns } from '../tagCsv/header'
import { newTags, savedTag, tagChange, tagDraft } from '../tags'
import { priorities } from '../links/priorities'
import { valueOrigin, wireValue } from '../values'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Tags'

const example = {
  path: 'harbour/feeder_11/active_power',
  source: { kind: 'point', linkId: 1, address: 'holding/40' },
  type: 'float32',
  unit: 'kW',
} as const

/** Which tags are meant, besides those that hold the words that are looked for. */
const which = {
  link: numberText(1).optional().describe('Only those that read through this link.'),
  source: z.enum(sourceKinds).optional().describe('Only those whose values come from such a source.'),
  below: z.string().max(240).optional().describe('Only those in this folder, at any depth.'),
  access: z.enum(['read', 'readwrite']).optional().describe('Only those that may be used so.'),
  quality: z.enum(['good', 'uncertain', 'bad']).optional().describe('Only those whose value is so at this moment; asks the engine.'),
  noted: z.literal('only').optional().describe('Only those of which something is to be said.'),
}

/** By what a list of tags may be ordered. */
export const tagSorts = ['path', 'link', 'address', 'type', 'access', 'interval', 'unit', 'description', 'id', 'revision'] as const

export const listTags = operation('GET /tags', {
  group,
  needs: 'look',
  does: 'The tags, with the notes on them.',
  query: { ...listQuery(tagSorts), ...which },
  answer: pageOf(savedTag).extend({
    notes: z
      .record(z.string(), z.array(tagNote))
      .nullable()
      .describe(
        'What is to be said of them, by the id of the tag; null where that is still being worked out: POST /notes/tags waits for it.',
      ),
  }),
  faults: ['engine.away'],
})

export const makeTags = operation('POST /tags', {
  group,
  needs: 'configure',
  does: 'Makes tags: all of them, or, where one is not right, none.',
  body: newTags,
  example: { tags: [example] },
  size: 'many',
  answer: z.array(savedTag),
  faults: ['entry.taken'],
})

export const showTag = operation('GET /tags/{id}', { group, needs: 'look', does: 'A tag.', answer: savedTag })

export const changeTag = operation('PUT /tags/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a tag, unless somebody else did since.',
  body: tagChange,
  example: { revision: 6, tag: example },
  answer: savedTag,
  faults: ['entry.taken', 'entry.edited'],
})

export const writeValue = operation('PUT /tags/{id}/value', {
  group,
  needs: 'operate',
  does: 'Writes a value to the device and answers with what was read back. 64-bit integers travel as text.',
  body: z.object({ value: z.union([z.boolean(), z.number(), z.string().max(4096)]) }),
  example: { value: 350 },
  answer: z.object({ readBack: wireValue }),
  engine: true,
  farSide: true,
})

export const tagPriorities = operation('GET /tags/{id}/priorities', {
  group,
  needs: 'look',
  does: 'Who holds the value of a tag that several write by priorities, as the device has it now.',
  answer: priorities,
  engine: true,
  farSide: true,
})

export const releaseTag = operation('DELETE /tags/{id}/value', {
  group,
  needs: 'operate',
  does: 'Gives back what this site holds of a tag that goes by priorities, and answers with what was read back.',
  answer: z.object({ readBack: wireValue }),
  engine: true,
  farSide: true,
})

export const walkTag = operation('POST /tags/{id}/check', {
  ...walk,
  group,
  does: 'Walks the way of a tag’s value, from the far side through what is made of it to whoever gets it. One line per step.',
})

export const tagChecks = operation('GET /tags/{id}/checks', {
  ...checks,
  group,
  does: 'The last checks of a tag’s way; the newest first.',
})

export const copyTags = operation('POST /tags/copy', {
  group,
  needs: 'configure',
  does: 'Copies a folder with all of its tags, onto another link or another unit where that is said.',
  body: z.object({
    from: z.string().max(240),
    to: z.string().trim().max(240),
    linkId: idField('A link').nullable().default(null).describe('The link that the copies read through; null: each the same as before.'),
    unit: z.string().max(20).nullable().default(null).describe('The unit that the copies are read from; null: each the same as before.'),
  }),
  example: { from: 'harbour/feeder_11', to: 'harbour/feeder_12', unit: '12' },
  answer: z.object({ tags: z.int(), revision: z.int() }),
  faults: ['entry.taken'],
})

export const listFolders = operation('GET /tags/folders', {
  group,
  needs: 'look',
  does: 'Every folder that holds a tag, at any depth.',
  query: listQuery(['path'], listWhole),
  answer: pageOf(z.string()),
})

export const listInside = operation('GET /tags/inside', {
  group,
  needs: 'look',
  does: 'The folders directly inside of a folder, each with how many of the tags that are meant lie in it, at any depth.',
  query: {
    ...listQuery(['name', 'tags'], listWhole),
    ...which,
    words: z.string().max(240).optional().describe('Words that the tags hold.'),
  },
  answer: pageOf(z.object({ folder: z.string(), name: z.string(), tags: z.int() })),
  faults: ['engine.away'],
})

export const changeCells = operation('PUT /tags/cells', {
  group,
  needs: 'configure',
  does: 'Changes cells of tags, as they stand in a table of tags: all of them, or, where one is not right, none.',
  body: z.object({
    edits: z
      .array(
        z.object({
          id: idField('An id'),
          revision: idField('A revision'),
          cells: z.record(z.string().max(40), z.string().max(5000)).describe('By the names of their columns.'),
        }),
      )
      .min(1)
      .max(20_000, 'At most 20,000 tags at once.'),
  }),
  example: { edits: [{ id: 12, revision: 6, cells: { unit: 'kW', gain: '0.1' } }] },
  size: 'many',
  answer: z.object({ revision: z.int(), tags: z.array(savedTag) }),
  faults: ['entry.taken', 'entry.edited', 'entry.gone'],
})

export const moveTags = operation('POST /tags/move', {
  group,
  needs: 'configure',
  does: 'Calls a folder, or a tag, otherwise, with all that lies in it; what refers to it by its path follows.',
  body: z.object({ from: tagDraft.shape.path, to: tagDraft.shape.path }),
  example: { from: 'harbour/feeder_11', to: 'harbour/feeder_11_west' },
  answer: z.object({
    revision: z.int(),
    tags: z.int(),
    others: z.int().describe('In how many outlets it was named.'),
    readers: z.int().describe('How many tags read something in it.'),
  }),
  faults: ['entry.taken', 'equipment.owned'],
})

export const knownTags = operation('POST /tags/known', {
  group,
  needs: 'look',
  does: 'Which of these paths are taken, and which of these points are tags already.',
  body: z.object({
    linkId: idField('A link'),
    points: z.array(place).max(20_000),
    paths: z.array(z.string().max(240)).max(20_000),
  }),
  example: { linkId: 1, points: [{ address: 'holding/40' }], paths: ['harbour/feeder_11/active_power'] },
  size: 'many',
  answer: z.object({
    paths: z.array(z.string()),
    points: z.array(z.object({ path: z.string(), address: z.string().nullable(), member: z.string() })),
  }),
})

export const removeTags = operation('POST /tags/remove', {
  group,
  needs: 'configure',
  does: 'Removes tags. Those that are gone already are no error.',
  body: z.object({ ids: z.array(idField('An id')).min(1).max(5000) }),
  example: { ids: [12, 13] },
  answer: removed,
  faults: ['equipment.owned'],
})

export const tagSummary = operation('GET /tags/summary', {
  group,
  needs: 'look',
  does: 'How many tags there are, and how many of them may be written.',
  answer: z.object({ tags: z.int(), writable: z.int() }),
})

export const tryTag = operation('POST /tags/try', {
  group,
  needs: 'configure',
  does: 'Reads an address once without making a tag, and shows every reading of the words that came.',
  body: z.object({ tag: tagDraft.omit({ path: true }).extend({ source: pointSource }) }),
  example: { tag: { source: { ...example.source, linkId: 1 }, type: 'float32' } },
  answer: valueOrigin,
  engine: true,
  farSide: true,
  faults: ['entry.gone'],
})

/** Columns by their names, in the order in which they are to stand. */
const columnNames = z
  .string()
  .max(2000)
  .transform((text) => text.split(',').map((name) => name.trim()))
  .pipe(z.array(z.enum(usualColumns as [string, ...string[]], { error: `A column is one of ${usualColumns.join(', ')}.` })).min(1))

export const tagTable = operation('GET /tags/table.csv', {
  group,
  needs: 'look',
  does: 'Tags as a table (CSV, RFC 4180), as a spreadsheet opens it and as it may come back.',
  query: {
    find: listQuery(['path']).find,
    ...which,
    columns: columnNames.optional().describe('By their names, with commas; absent: all that are in use.'),
    delimiter: z.enum(delimiters).default(',').describe('What divides cells.'),
    decimal: z.enum(decimalSigns).default('.').describe('The decimal sign.'),
  },
  answer: z.string(),
  as: 'csv',
  faults: ['engine.away'],
})

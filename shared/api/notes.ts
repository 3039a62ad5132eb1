import { z } from 'zod'
import { idField, lineField } from '#core/contracts/fields'
import { noteKindNames } from '#core/notes/kinds'
import { tagNote } from '../notes'
import { tagDraft } from '../tags'
import { listQuery, mostOfPage, pageOf } from './lists'
import { operation } from './operation'

const group = 'Notes'

export const listNotes = operation('GET /notes', {
  group,
  needs: 'look',
  does: 'The notes on tags: of their configuration, and of what the far side refused.',
  query: {
    ...listQuery(['path', 'kind']),
    kind: z.enum(noteKindNames).optional().describe('Only those of this kind.'),
    accepted: z.literal('only').optional().describe('Those that were accepted, in place of those that were not.'),
  },
  answer: pageOf(tagNote.extend({ id: z.int().describe('The tag.'), path: z.string() })).extend({
    kinds: z.partialRecord(z.enum(noteKindNames), z.int()).describe('How many there are of each kind, whatever kind was asked for.'),
  }),
})

export const noteTags = operation('POST /notes/tags', {
  group,
  needs: 'look',
  does: 'The notes on these tags, by the id of the tag; waits until what changed last is looked through.',
  body: z.object({ ids: z.array(idField('An id')).min(1).max(mostOfPage, `At most ${mostOfPage} tags at once.`) }),
  example: { ids: [12, 13] },
  answer: z.record(z.string(), z.array(tagNote)),
})

export const previewNotes = operation('POST /notes/preview', {
  group,
  needs: 'look',
  does: 'What would be to be said of a tag as it is typed, before it is saved.',
  body: z.object({ tag: tagDraft, id: idField('An id').nullable().default(null).describe('The saved tag whose place it would take.') }),
  example: {
    tag: { path: 'harbour/feeder_11/active_power', source: { kind: 'point', linkId: 1, address: 'holding/40' }, type: 'float32' },
  },
  answer: z.array(tagNote),
})

export const acceptNotes = operation('POST /notes/accept', {
  group,
  needs: 'configure',
  does: 'Accepts notes for a reason, or no longer; as one revision.',
  body: z.object({
    notes: z
      .array(z.object({ id: idField('An id'), key: lineField('A note', 600) }))
      .min(1)
      .max(5000, 'At most 5,000 notes at once.'),
    reason: lineField('A reason', 200).nullable().describe('Why they are right as they are; null: they count again.'),
  }),
  example: { notes: [{ id: 12, key: 'duplicate holding/40 float32' }], reason: 'wanted twice, with another scaling' },
  answer: z.object({ revision: z.int() }),
  faults: ['entry.gone'],
})

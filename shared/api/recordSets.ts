import type { z } from 'zod'
import { recordSetContract } from '#core/records/settings'
import { recordSetChange, recordSetPreview, recordSetTrial, savedRecordSet } from '../records/recordSet'
import { recordSetStatus } from '../records/status'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Record sets'

const example: z.input<typeof recordSetContract> = {
  name: 'Profile of the ship',
  linkId: 1,
  folder: 'call_book/profile',
  how: { kind: 'cursor', from: { kind: 'table', table: 'power_profile' }, key: 'voyage', again: { stamp: 'changed_at' } },
}

export const listRecordSets = operation('GET /record-sets', {
  group,
  needs: 'look',
  does: 'The record sets: rows of databases that are tags.',
  query: listQuery(['name', 'id', 'revision'], listWhole),
  answer: pageOf(savedRecordSet),
})

export const makeRecordSet = operation('POST /record-sets', {
  group,
  needs: 'configure',
  does: 'Makes a record set. It makes its tags by itself, as soon as its rows have been read.',
  body: recordSetContract,
  example,
  answer: savedRecordSet,
  faults: ['entry.taken'],
})

export const showRecordSet = operation('GET /record-sets/{id}', { group, needs: 'look', does: 'A record set.', answer: savedRecordSet })

export const changeRecordSet = operation('PUT /record-sets/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a record set, unless somebody else did since. Its tags follow.',
  body: recordSetChange,
  example: { revision: 9, recordSet: example },
  answer: savedRecordSet,
  faults: ['entry.taken', 'entry.edited'],
})

export const removeRecordSet = operation('DELETE /record-sets/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a record set with its tags.',
  answer: removed,
})

export const previewRecordSet = operation('POST /record-sets/preview', {
  group,
  needs: 'configure',
  does: 'The rows that a record set would begin with, and the tags that come of them. Nothing is saved; a procedure runs only where that is asked for.',
  body: recordSetTrial,
  example: { recordSet: example },
  answer: recordSetPreview,
  engine: true,
  faults: ['entry.gone'],
})

export const readRecordSet = operation('POST /record-sets/{id}/read', {
  group,
  needs: 'operate',
  does: 'Reads a record set again, now.',
  answer: recordSetStatus,
  engine: true,
  farSide: true,
  faults: ['entry.gone'],
})

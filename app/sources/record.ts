import { itemText } from '#core/records/items'
import type { RecordSource } from '#shared/sources/record'
import RecordFields from '~/components/sources/RecordFields.vue'
import type { SourceFace } from './face'

export const recordFace: SourceFace<RecordSource> = {
  fields: RecordFields,
  timing: null,
  beside: null,
  access: 'read',
  holder: 'The record set',
  blank: () => ({ kind: 'record', recordSetId: 0, part: 'value', column: '', row: '' }),
  limits: ({ type, access }) => ({ key: 'record', types: [type], defaultType: null, writable: access === 'readwrite' }),
  facts: ({ source }) => ({
    ...{ address: itemText(source), full: itemText(source), words: '', every: '—' },
    through: { title: 'record set', path: `/records/${source.recordSetId}` },
  }),
  next: ({ source }) => source,
  hasNext: () => false,
}

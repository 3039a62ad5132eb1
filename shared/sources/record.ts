import { z } from 'zod'
import { lineField, wholeNumber, mostInteger } from '#core/contracts/fields'
import { itemKey, itemParts, type ItemPart } from '#core/records/items'
import type { SourceRules } from './source'

const parts = [...itemParts] as [ItemPart, ...ItemPart[]]

export const recordSource = z.object({
  kind: z.literal('record'),
  recordSetId: wholeNumber('A record set', 1, mostInteger),
  part: z.enum(parts).describe('What of the set it is.'),
  column: lineField('A column', 63).default('').describe('Of a value its column, of a parameter its name.'),
  row: z.string().max(500, 'A row is called by at most 500 characters.').default('').describe('Of one of several rows: how it is called.'),
})
export type RecordSource = z.output<typeof recordSource>

/** Part of a record set, which makes its tags by itself. */
export const record: SourceRules<RecordSource> = {
  contract: recordSource,
  title: 'Rows of a database',
  subtitle: 'made by a record set',
  isMade: true,
  isScaled: false,
  isDamped: false,
  columns: [],
  blank: () => ({ kind: 'record', recordSetId: 0, part: 'value', column: '', row: '' }),
  usualType: () => null,
  problems: ({ source }) =>
    source.recordSetId > 0 ? [] : [{ path: 'source.recordSetId', message: 'Record sets make their tags by themselves.' }],
  settled: (tag) => tag,
  isSame: (a, b) => a.recordSetId === b.recordSetId && itemKey(a) === itemKey(b),
}

import { z } from 'zod'
import type { SourceColumn } from './columns'
import { numberIn, type DecimalSign } from '#core/formats/csv/numbers'
import { toRaw } from '#core/tags/scaling'
import type { SourceRules } from './source'

export const memorySource = z.object({
  kind: z.literal('memory'),
  /** What the tag holds before anybody wrote; 64-bit integers, times and arrays as text. Null: nothing. */
  start: z
    .union([z.boolean(), z.number(), z.string().max(4096, 'A value has at most 4,096 characters.')], {
      error: 'A value is a number, a text, true or false.',
    })
    .nullable()
    .default(null),
})

export type MemorySource = z.output<typeof memorySource>

/** As text: whether it is a number or a word, the tag's type tells. */
const start: SourceColumn<MemorySource> = {
  name: 'start',
  about: 'What a tag in memory holds before anybody wrote; 64-bit integers, times and arrays as text.',
  field: 'start',
  show: ({ start }) => start,
  put: (source, cell, { decimal }) => {
    source.start = cell === '' ? null : startOf(cell, decimal)
    return null
  },
}

/** Text fits every type; a number keeps its digits that way, however many there are. */
const startOf = (cell: string, decimal: DecimalSign): string => (numberIn(cell, decimal) === null ? cell : cell.replace(decimal, '.'))

/** A value that is kept here: whoever may write gives it, and it stays over restarts. */
export const memory: SourceRules<MemorySource> = {
  contract: memorySource,
  title: 'Memory',
  subtitle: 'kept here; pages and outlets write it',
  isScaled: false,
  isDamped: false,
  columns: [start],
  blank: () => ({ kind: 'memory', start: null }),
  usualType: () => null,
  problems: ({ type, source: { start } }) => {
    const fits = start === null ? null : toRaw(start, type, null)
    return fits && !fits.ok ? [{ path: 'source.start', message: `The value to start with does not fit: ${fits.detail}.` }] : []
  },
  settled: (tag) => tag,
  isSame: () => true,
}

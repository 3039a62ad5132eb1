import { z } from 'zod'
import type { SourceColumn } from './columns'
import { numberCell, orElse, set } from '#core/formats/cells'
import { toRaw } from '#core/tags/scaling'
import { isNumeric, type TagValue } from '#core/tags/types'
import { plainCell } from './constant'
import type { SourceRules } from './source'

const limit = z.number({ error: 'A limit is a number.' }).nullable().default(null)

export const memorySource = z.object({
  kind: z.literal('memory'),
  /** What the tag holds before anybody wrote; 64-bit integers, times and arrays as text. Null: nothing. */
  start: z
    .union([z.boolean(), z.number(), z.string().max(4096, 'A value has at most 4,096 characters.')], {
      error: 'A value is a number, a text, true or false.',
    })
    .nullable()
    .default(null),
  low: limit.describe('What lies below is not taken; null: no limit.'),
  high: limit.describe('What lies above is not taken; null: no limit.'),
})

export type MemorySource = z.output<typeof memorySource>

/** As text: whether it is a number or a word, the tag's type tells. */
const start: SourceColumn<MemorySource> = {
  name: 'start',
  about: 'What a tag in memory holds before anybody wrote; 64-bit integers, times and arrays as text.',
  field: 'start',
  show: ({ start }) => start,
  put: (source, cell, { decimal }) => {
    source.start = cell === '' ? null : plainCell(cell, decimal)
    return null
  },
}

const limitColumn = (end: 'low' | 'high'): SourceColumn<MemorySource> => ({
  name: `${end}_limit`,
  about: `What lies ${end === 'low' ? 'below' : 'above'} is not taken by a tag in memory.`,
  field: end,
  show: (source) => source[end],
  put: (source, cell, reading) =>
    set(
      orElse(cell, null, () => numberCell(cell, reading)),
      (value) => (source[end] = value),
    ),
})

/** Why a value is not taken: it lies beyond a limit; null: it is taken. */
export const beyondLimit = (value: TagValue, { low, high }: Pick<MemorySource, 'low' | 'high'>): string | null => {
  if (typeof value !== 'number' && typeof value !== 'bigint') return null
  if (low !== null && value < low) return `${value} lies below the limit ${low}`
  return high !== null && value > high ? `${value} lies above the limit ${high}` : null
}

/** A value that is kept here: whoever may write gives it, and it stays over restarts. */
export const memory: SourceRules<MemorySource> = {
  contract: memorySource,
  title: 'Memory',
  subtitle: 'kept here; pages and outlets write it',
  isScaled: false,
  isDamped: false,
  columns: [start, limitColumn('low'), limitColumn('high')],
  blank: () => ({ kind: 'memory', start: null, low: null, high: null }),
  usualType: () => null,
  problems: ({ type, source }) => {
    const { start, low, high } = source
    const fits = start === null ? null : toRaw(start, type, null)
    const beyond = fits?.ok ? beyondLimit(fits.raw, source) : null
    return [
      ...(fits && !fits.ok ? [{ path: 'source.start', message: `The value to start with does not fit: ${fits.detail}.` }] : []),
      ...(beyond ? [{ path: 'source.start', message: `The value to start with: ${beyond}.` }] : []),
      ...((low !== null || high !== null) && !isNumeric(type) ? [{ path: 'source.low', message: 'Only numbers have limits.' }] : []),
      ...(low !== null && high !== null && low > high
        ? [{ path: 'source.high', message: 'The high limit is not below the low one.' }]
        : []),
    ]
  },
  settled: (tag) => tag,
  isSame: () => true,
}

import { z } from 'zod'
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

/** A value that is kept here: whoever may write gives it, and it stays over restarts. */
export const memory: SourceRules<MemorySource> = {
  contract: memorySource,
  title: 'Memory',
  subtitle: 'kept here; pages and outlets write it',
  isScaled: false,
  problems: ({ type, source: { start } }) => {
    const fits = start === null ? null : toRaw(start, type, null)
    return fits && !fits.ok ? [{ path: 'source.start', message: `The value to start with does not fit: ${fits.detail}.` }] : []
  },
  settled: (tag) => tag,
  isSame: () => true,
}

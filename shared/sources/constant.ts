import { z } from 'zod'
import { numberIn, type DecimalSign } from '#core/formats/csv/numbers'
import { toRaw } from '#core/tags/scaling'
import type { SourceRules } from './source'

export const constantSource = z.object({
  kind: z.literal('constant'),
  /** 64-bit integers, times and arrays as text. */
  value: z.union([z.boolean(), z.number(), z.string().max(4096, 'A value has at most 4,096 characters.')], {
    error: 'A value is a number, a text, true or false.',
  }),
})

export type ConstantSource = z.output<typeof constantSource>

/** Text fits every type; a number keeps its digits that way, however many there are. */
export const plainCell = (cell: string, decimal: DecimalSign): string =>
  numberIn(cell, decimal) === null ? cell : cell.replace(decimal, '.')

/** A value that never changes. */
export const constant: SourceRules<ConstantSource> = {
  contract: constantSource,
  title: 'Constant',
  subtitle: 'a value that never changes',
  isScaled: false,
  isDamped: false,
  columns: [
    {
      name: 'value',
      about: 'The value of a constant; 64-bit integers, times and arrays as text.',
      field: 'value',
      show: ({ value }) => value,
      put: (source, cell, { decimal }) => {
        source.value = plainCell(cell, decimal)
        return null
      },
    },
  ],
  blank: () => ({ kind: 'constant', value: '' }),
  usualType: ({ value }) => (typeof value === 'number' ? 'float64' : typeof value === 'boolean' ? 'bool' : null),
  problems: ({ type, access, source: { value } }) => {
    const fits = toRaw(value, type, null)
    return [
      ...(fits.ok ? [] : [{ path: 'source.value', message: `The value does not fit: ${fits.detail}.` }]),
      ...(access === 'read' ? [] : [{ path: 'access', message: 'A constant is not written; a tag in memory is.' }]),
    ]
  },
  settled: (tag) => tag,
  isSame: (a, b) => a.value === b.value,
}

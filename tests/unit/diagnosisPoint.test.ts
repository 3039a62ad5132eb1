import { expect, it } from 'vitest'
import { likeliestOf } from '#core/diagnosis/point'
import type { DataType } from '#core/tags/types'

const way = (type: DataType | null, reasons: number) => ({ takes: type && { type }, reasons: Array.from({ length: reasons }) })

it('takes the same type in another order for likelier than another type for which more speaks', () => {
  const [digits, swapped] = [way('uint16', 3), way('float32', 1)]
  expect(likeliestOf([digits, swapped], 'float32')).toBe(swapped)
  expect(likeliestOf([digits, swapped], 'int32')).toBe(digits)
  expect(likeliestOf([way(null, 5), swapped], 'float32')).toBe(swapped)
  expect(likeliestOf([], 'float32')).toBeNull()
})

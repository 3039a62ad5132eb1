import { integerRanges } from '../../tags/types'
import type { ScalarValue } from '../../tags/types'
import type { ModbusType } from '../layout'

/**
 * What stands for no value: NaN, the lowest of the signed integers, all bits of the others, an empty text. A bool has
 * nothing that could; it is off, and an entry that tells whether the tag is good stands beside it.
 */
export const markerOf = (type: ModbusType): ScalarValue => {
  switch (type) {
    case 'float32':
    case 'float64':
      return NaN
    case 'int16':
    case 'int32':
      return Number(integerRanges[type]!.low)
    case 'uint16':
    case 'uint32':
      return Number(integerRanges[type]!.high)
    case 'int64':
      return integerRanges.int64!.low
    case 'uint64':
      return integerRanges.uint64!.high
    case 'string':
      return ''
    case 'bool':
      return false
  }
}

/** The same in words. */
export const markerText = (type: ModbusType): string => {
  const marker = markerOf(type)
  if (type === 'string') return 'an empty text'
  return type === 'bool' ? 'off' : String(marker)
}

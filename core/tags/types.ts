/**
 * The data types a tag may have, with the names the trade uses for them and what each holds.
 * `int64` and `uint64` are carried as `bigint`, `bool` as `boolean`, `string` as `string`,
 * everything else as `number`.
 */
export const dataTypes = ['bool', 'int16', 'uint16', 'int32', 'uint32', 'int64', 'uint64', 'float32', 'float64', 'string'] as const

export type DataType = (typeof dataTypes)[number]
export type TagValue = boolean | number | bigint | string
export type NumericType = Exclude<DataType, 'bool' | 'string'>

interface IntegerRange {
  low: bigint
  high: bigint
}

/** What an integer type can hold, both ends included. Types that are no integers are not listed. */
export const integerRanges: Partial<Record<DataType, IntegerRange>> = {
  int16: { low: -(2n ** 15n), high: 2n ** 15n - 1n },
  uint16: { low: 0n, high: 2n ** 16n - 1n },
  int32: { low: -(2n ** 31n), high: 2n ** 31n - 1n },
  uint32: { low: 0n, high: 2n ** 32n - 1n },
  int64: { low: -(2n ** 63n), high: 2n ** 63n - 1n },
  uint64: { low: 0n, high: 2n ** 64n - 1n },
}

export const isNumeric = (type: DataType): type is NumericType => type !== 'bool' && type !== 'string'
export const isWide = (type: DataType) => type === 'int64' || type === 'uint64'

/** The type a consumer sees: scaling turns every number into a `float64`. */
export const passedOnType = (type: DataType, scaled: boolean): DataType => (scaled && isNumeric(type) ? 'float64' : type)

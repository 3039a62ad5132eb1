/**
 * The data types a tag may have, with the names the trade uses for them and what each holds.
 * `int64` and `uint64` are carried as `bigint`, `bool` as `boolean`, `string` as `string`,
 * `datetime` as Unix milliseconds, everything else as `number`. A type followed by `[]` is an
 * array of these.
 */
export const scalarTypes = [
  'bool',
  'int8',
  'uint8',
  'int16',
  'uint16',
  'int32',
  'uint32',
  'int64',
  'uint64',
  'float32',
  'float64',
  'string',
  'datetime',
] as const

export type ScalarType = (typeof scalarTypes)[number]
export type ArrayType = `${ScalarType}[]`
export type DataType = ScalarType | ArrayType
export type ScalarValue = boolean | number | bigint | string
export type TagValue = ScalarValue | readonly ScalarValue[]
export type NumericType = Exclude<ScalarType, 'bool' | 'string' | 'datetime'>

export const arrayOf = (type: ScalarType): ArrayType => `${type}[]`
export const dataTypes = [...scalarTypes, ...scalarTypes.map(arrayOf)] as [DataType, ...DataType[]]

export const isArrayType = (type: DataType): type is ArrayType => type.endsWith('[]')
/** The type of one element; a scalar type is its own. */
export const elementOf = (type: DataType): ScalarType => (isArrayType(type) ? (type.slice(0, -2) as ScalarType) : type)
export const isArrayValue = (value: TagValue | null | undefined): value is readonly ScalarValue[] => Array.isArray(value)

interface IntegerRange {
  low: bigint
  high: bigint
}

/** What an integer type can hold, both ends included. Types that are no integers are not listed. */
export const integerRanges: Partial<Record<DataType, IntegerRange>> = {
  int8: { low: -128n, high: 127n },
  uint8: { low: 0n, high: 255n },
  int16: { low: -(2n ** 15n), high: 2n ** 15n - 1n },
  uint16: { low: 0n, high: 2n ** 16n - 1n },
  int32: { low: -(2n ** 31n), high: 2n ** 31n - 1n },
  uint32: { low: 0n, high: 2n ** 32n - 1n },
  int64: { low: -(2n ** 63n), high: 2n ** 63n - 1n },
  uint64: { low: 0n, high: 2n ** 64n - 1n },
}

const notNumeric = new Set<DataType>(['bool', 'string', 'datetime'])
export const isNumeric = (type: DataType): type is NumericType => !notNumeric.has(type) && !isArrayType(type)
export const isWide = (type: DataType) => type === 'int64' || type === 'uint64'

/** The type a consumer sees: scaling turns every number into a `float64`. */
export const passedOnType = (type: DataType, scaled: boolean): DataType => (scaled && isNumeric(type) ? 'float64' : type)

/** Whether two values are the same to a consumer; NaN equals NaN, arrays element by element. */
export const sameValue = (a: TagValue | undefined, b: TagValue | undefined): boolean => {
  if (Object.is(a, b)) return true
  if (!isArrayValue(a) || !isArrayValue(b) || a.length !== b.length) return false
  return a.every((element, index) => Object.is(element, b[index]))
}

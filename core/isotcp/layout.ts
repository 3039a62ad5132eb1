import { elementOf, isArrayType, type DataType, type ScalarType } from '../tags/types'

/**
 * How values lie in the bytes of a controller. Numbers are as IEC 61131-3 has them, most significant byte first unless
 * the link or the point says otherwise; texts and times have forms of their own.
 */
export const byteOrders = ['big', 'little'] as const
export type ByteOrder = (typeof byteOrders)[number]

export const textForms = ['counted', 'wide', 'chars'] as const
export const timeForms = ['bcd8', 'fields', 'days', 'nanos'] as const
export const numberForms = ['timer', 'digits'] as const
export const forms = [...textForms, ...timeForms, ...numberForms] as const
export type Form = (typeof forms)[number]

export const formText: Record<Form, string> = {
  counted: 'STRING: most and present length in a byte each, then the characters',
  wide: 'WSTRING: both lengths in two bytes each, then UTF-16',
  chars: 'characters alone, as many as there is room for',
  bcd8: 'DATE_AND_TIME: eight bytes of decimal digits',
  fields: 'year to nanosecond in twelve bytes',
  days: 'DATE: days since 1990-01-01 in two bytes',
  nanos: 'LDT: nanoseconds since 1970-01-01 in eight bytes',
  timer: 'timer word: three digits and a time base, as milliseconds',
  digits: 'three decimal digits (BCD)',
}

export interface IsoLayout {
  /** Of one element. */
  type: ScalarType
  form: Form | null
  order: ByteOrder
  /** Characters of a text. */
  length: number
  /** Elements of an array; 0: it is none. */
  count: number
  bit: number | null
}

const widths: Partial<Record<ScalarType, number>> = {
  ...{ bool: 1, uint8: 1, int8: 1, uint16: 2, int16: 2, uint32: 4, int32: 4, uint64: 8, int64: 8, float32: 4, float64: 8 },
}
const timeBytes: Record<(typeof timeForms)[number], number> = { bcd8: 8, fields: 12, days: 2, nanos: 8 }

const textBytes = (form: Form | null, length: number) => (form === 'wide' ? 4 + 2 * length : form === 'chars' ? length : 2 + length)

/** Bytes of one element. */
export const elementBytes = ({ type, form, length }: Pick<IsoLayout, 'type' | 'form' | 'length'>): number => {
  if (form === 'timer' || form === 'digits') return 2
  if (type === 'string') return textBytes(form, length)
  if (type === 'datetime') return timeBytes[(form ?? 'bcd8') as keyof typeof timeBytes]
  return widths[type]!
}

/** Bytes of all of it, from the first one that it touches to the last. */
export const bytesOf = (layout: IsoLayout): number => {
  const { type, count, bit } = layout
  if (type === 'bool') return Math.ceil(((bit ?? 0) + Math.max(1, count)) / 8)
  return Math.max(1, count) * elementBytes(layout)
}

/** The forms that a type may have; the first is the usual one. */
export const formsOf = (type: DataType): readonly Form[] => {
  if (type === 'string') return textForms
  if (type === 'datetime') return timeForms
  if (type === 'uint32') return ['timer']
  return type === 'uint16' ? ['digits'] : []
}

/** Whether the order of bytes makes a difference. */
export const ordersMatter = (type: DataType, form: Form | null) => {
  const element = elementOf(type)
  return form === null && (widths[element] ?? 0) > 1 && element !== 'bool'
}

export const needsCount = (type: DataType) => isArrayType(type)

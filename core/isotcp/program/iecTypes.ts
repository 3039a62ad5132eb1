import type { ScalarType } from '../../tags/types'
import type { Form } from '../layout'

/** A type of IEC 61131-3 (table 10, and those of its third edition), as a tag reads it. */
export interface IecType {
  type: ScalarType
  form?: Form
  bytes: number
  /** What the number counts, where its type does not say. */
  note?: string
}

const types: Record<string, IecType> = {
  BOOL: { type: 'bool', bytes: 1 },
  BYTE: { type: 'uint8', bytes: 1 },
  USINT: { type: 'uint8', bytes: 1 },
  SINT: { type: 'int8', bytes: 1 },
  WORD: { type: 'uint16', bytes: 2 },
  UINT: { type: 'uint16', bytes: 2 },
  INT: { type: 'int16', bytes: 2 },
  DWORD: { type: 'uint32', bytes: 4 },
  UDINT: { type: 'uint32', bytes: 4 },
  DINT: { type: 'int32', bytes: 4 },
  LWORD: { type: 'uint64', bytes: 8 },
  ULINT: { type: 'uint64', bytes: 8 },
  LINT: { type: 'int64', bytes: 8 },
  REAL: { type: 'float32', bytes: 4 },
  LREAL: { type: 'float64', bytes: 8 },
  TIME: { type: 'int32', bytes: 4, note: 'milliseconds' },
  LTIME: { type: 'int64', bytes: 8, note: 'nanoseconds' },
  TIME_OF_DAY: { type: 'uint32', bytes: 4, note: 'milliseconds since midnight' },
  TOD: { type: 'uint32', bytes: 4, note: 'milliseconds since midnight' },
  DATE: { type: 'datetime', form: 'days', bytes: 2 },
  DATE_AND_TIME: { type: 'datetime', form: 'bcd8', bytes: 8 },
  DT: { type: 'datetime', form: 'bcd8', bytes: 8 },
  LDT: { type: 'datetime', form: 'nanos', bytes: 8 },
  DTL: { type: 'datetime', form: 'fields', bytes: 12 },
}

export const usualTextLength = 254
const textNames: Record<string, { form: Form; head: number; width: number }> = {
  STRING: { form: 'counted', head: 2, width: 1 },
  WSTRING: { form: 'wide', head: 4, width: 2 },
  CHAR: { form: 'chars', head: 0, width: 1 },
}

/** Null: the language has no such type. */
export const iecType = (name: string, length: number | null): (IecType & { length: number }) | null => {
  const text = Object.hasOwn(textNames, name) ? textNames[name]! : null
  if (text) {
    const characters = name === 'CHAR' ? 1 : (length ?? usualTextLength)
    return { type: 'string', form: text.form, bytes: text.head + text.width * characters, length: characters }
  }
  return Object.hasOwn(types, name) ? { ...types[name]!, length: 0 } : null
}

/**
 * A value on its way through a bridge: exactly as it came, so that a counter of 64 bits keeps its last digit. Times are
 * `Date`s; lists and objects come out of messages.
 */
export type Carried =
  null | boolean | number | bigint | string | Date | Uint8Array | readonly Carried[] | { readonly [name: string]: Carried }

export const isPlainObject = (value: Carried): value is { readonly [name: string]: Carried } =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && !(value instanceof Date) && !(value instanceof Uint8Array)

/** As JSON has it (RFC 8259), every digit kept: a wide whole number stays a number, a time is ISO 8601, bytes are base64. */
export const jsonOf = (value: Carried): string => {
  if (value === null || value === undefined) return 'null'
  if (typeof value === 'bigint') return value.toString()
  if (typeof value === 'number') return Number.isFinite(value) ? JSON.stringify(value) : 'null'
  if (value instanceof Date) return JSON.stringify(isoText(value))
  if (value instanceof Uint8Array) return JSON.stringify(base64Of(value))
  if (Array.isArray(value)) return `[${value.map(jsonOf).join(',')}]`
  if (isPlainObject(value))
    return `{${Object.entries(value)
      .map(([name, part]) => `${JSON.stringify(name)}:${jsonOf(part)}`)
      .join(',')}}`
  return JSON.stringify(value)
}

/** As plain text has it: what is text stays as it is, and what has parts is JSON. Null is empty. */
export const textOf = (value: Carried): string => {
  if (value === null || value === undefined) return ''
  if (typeof value === 'string') return value
  if (typeof value !== 'object') return String(value)
  if (value instanceof Date) return isoText(value)
  return value instanceof Uint8Array ? base64Of(value) : jsonOf(value)
}

/** A time that no calendar has is none. */
export const isoText = (time: Date): string => (Number.isNaN(time.getTime()) ? '' : time.toISOString())

export const base64Of = (bytes: Uint8Array): string => btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''))

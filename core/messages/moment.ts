/** Larger numbers count milliseconds since 1970, and not seconds: they would lie beyond the year 5000. */
const mostSeconds = 1e11

/** With a zone, or without one and then in UTC. */
const iso = /^\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?(Z|[+-]\d\d(?::?\d\d)?)?)?$/i

/** A time in one of the forms in which messages carry it: ISO 8601, seconds or milliseconds since 1970; null: it is none. Unix milliseconds. */
export const moment = (value: unknown): number | null => {
  if (typeof value === 'number') return fromNumber(value)
  if (typeof value !== 'string') return null
  const text = value.trim()
  if (/^\d+(\.\d+)?$/.test(text)) return fromNumber(Number(text))
  const match = iso.exec(text)
  if (!match) return null
  const time = Date.parse(`${text.replace(' ', 'T').replace(',', '.')}${match[1] || !/[T ]/i.test(text) ? '' : 'Z'}`)
  return Number.isNaN(time) ? null : time
}

/** Whether a text is a date with a time, and no number that might be one. */
export const isIsoTime = (text: string): boolean => /[T ]/.test(text.trim()) && iso.test(text.trim()) && moment(text) !== null

const fromNumber = (number: number): number | null => {
  if (!Number.isFinite(number) || number < 0) return null
  return Math.abs(number) < mostSeconds ? Math.round(number * 1000) : Math.round(number)
}

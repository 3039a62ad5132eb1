import { parse } from 'lossless-json'

/** What could get lost on the way through doubles: 16 digits and more, and large exponents. */
const isDelicate = (text: string) => /\d{16}|\d[eE]\+?\d{3}/.test(text)

const namesIn = (value: unknown): number => {
  if (Array.isArray(value)) return value.reduce<number>((total, part) => total + namesIn(part), 0)
  if (typeof value !== 'object' || value === null) return 0
  const parts = Object.values(value)
  return parts.reduce<number>((total, part) => total + namesIn(part), parts.length)
}

/** Names as they stand in the text; a colon behind a quotation mark within a text counts as well, which only costs a second look. */
const namesWritten = (text: string): number => {
  let count = 0
  for (let at = text.indexOf(':'); at >= 0; at = text.indexOf(':', at + 1)) {
    let before = at - 1
    while (before >= 0 && (text.charCodeAt(before) === 32 || (text.charCodeAt(before) >= 9 && text.charCodeAt(before) <= 13))) before--
    if (text.charCodeAt(before) === 34) count++
  }
  return count
}

const numberOf = (text: string): number | bigint => {
  const number = Number(text)
  if (Number.isInteger(number) && !Number.isSafeInteger(number) && /^-?\d+$/.test(text)) return BigInt(text)
  if (!Number.isFinite(number)) throw new SyntaxError(`${text.slice(0, 40)} is beyond what a number of 64 bits holds`)
  return number
}

/**
 * JSON (RFC 8259) with every digit of whole numbers: those that a double does not hold come as bigint. Throws where it is
 * none, where a name stands in one object with two values (section 4 leaves open which would count), and where a number is beyond a double.
 */
export const parseJson = (text: string): unknown => {
  const value = JSON.parse(text) as unknown
  if (!isDelicate(text) && namesWritten(text) === namesIn(value)) return value
  return parse(text, null, {
    parseNumber: numberOf,
    onDuplicateKey: ({ key }) => {
      throw new SyntaxError(`the name “${key.slice(0, 40)}” stands twice in it, with two values`)
    },
  })
}

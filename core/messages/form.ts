import { visible } from '../text/visible'

/** What a payload looks like to someone who has no description of it. */
export const payloadForms = ['empty', 'number', 'true or false', 'JSON object', 'JSON list', 'text', 'binary'] as const
export type PayloadForm = (typeof payloadForms)[number]

/** More than this is not looked into: a form that needs megabytes to be told is told from its start. */
const mostLookedAt = 64 * 1024
const mostShown = 200
/** Of bytes that are no text so many are shown. */
const mostBytesShown = 32

/** Of one character in UTF-8, bytes. */
const longestCharacter = 4

const decoder = new TextDecoder('utf-8', { fatal: true })

const textOf = (payload: Uint8Array): string | null => {
  try {
    const text = decoder.decode(payload)
    return /\p{Cc}/u.test(text.replace(/[\t\r\n]/g, '')) ? null : text
  } catch {
    return null
  }
}

/** A number as JSON has it (RFC 8259, 6), with room around it. */
const number = /^\s*-?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)?\s*$/

/** The form of a payload, from its bytes alone. @param isWhole whether these are all of them, or only the first. */
export const formOf = (payload: Uint8Array, isWhole = true): PayloadForm => {
  if (payload.length === 0) return 'empty'
  if (!isWhole || payload.length > mostLookedAt) return formOfLong(payload)
  const text = textOf(payload)
  if (text === null) return 'binary'
  if (number.test(text)) return 'number'
  const trimmed = text.trim()
  if (/^(true|false)$/i.test(trimmed)) return 'true or false'
  if (!/^[[{]/.test(trimmed)) return 'text'
  try {
    return Array.isArray(JSON.parse(trimmed)) ? 'JSON list' : 'JSON object'
  } catch {
    return 'text'
  }
}

const formOfLong = (payload: Uint8Array): PayloadForm => {
  const start = shortened(payload, mostLookedAt)
  if (start === null) return 'binary'
  const first = start.trimStart()[0]
  return first === '{' ? 'JSON object' : first === '[' ? 'JSON list' : 'text'
}

/** A prefix as text; a character that the cut went through does not count against it. */
const shortened = (payload: Uint8Array, most: number): string | null => {
  if (payload.length <= most) return textOf(payload)
  for (let cut = 0; cut < longestCharacter; cut++) {
    const text = textOf(payload.subarray(0, most - cut))
    if (text !== null) return text
  }
  return null
}

/** A payload in one line: text as it is, as far as it goes; other bytes in hexadecimal. */
export const previewOf = (payload: Uint8Array): string => {
  const text = shortened(payload, 4 * mostShown)
  if (text === null) return hexadecimal(payload.subarray(0, mostBytesShown)) + (payload.length > mostBytesShown ? ' …' : '')
  const line = visible(text.replace(/\s+/g, ' ').trim())
  return line.length > mostShown || payload.length > 4 * mostShown ? `${line.slice(0, mostShown)}…` : line
}

const hexadecimal = (bytes: Uint8Array) => Array.from(bytes, (byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ')

import type { TagValue } from '../tags/types'

/** Who calls: one that comes back under the same name, from the same place and as the same guest, is the same. */
export interface Caller {
  /** By which it goes. */
  name: string
  /** Its address, without a port; of a line the device. */
  from: string
  /** As whom it came in. */
  as: string
}

export interface NumberedCaller extends Caller {
  id: number
}

/** One thing that a call was about. */
export interface CallItem {
  /** A tag, a node, a topic, a range of registers, a path. */
  what: string
  /** What was given or taken; null: nothing. */
  value: string | null
  /** In the words of the protocol; empty: it has none for single items. */
  status: string
  refused: boolean
}

export const callOutcomes = ['well', 'partly', 'refused'] as const
/** Partly: some of its items were refused. */
export type CallOutcome = (typeof callOutcomes)[number]

/** How a call ended, and how long that took: what is counted of each. */
export interface CountedCall {
  outcome: CallOutcome
  /** How long the answer took; null: that is not known, or there is none. */
  ms: number | null
  /** Nobody asked for it: it is what a client subscribed to, or listens to. */
  isTold: boolean
  /** Of what it failed with, where it did. */
  code?: string
}

/** A call as it is held: what it was about is put into words once somebody looks. */
export interface HeldCall {
  /** What was asked for, in the words of the protocol. */
  service: string
  /** What the answer said as a whole. */
  status: string
  /** How many items it is about. */
  count: number
  /** About what it holds in memory. */
  bytes: number
  /** @param most so many items at the most */
  tell(most: number): CallItem[]
}

/** A call in words. */
export interface Call {
  n: number
  /** Unix milliseconds. */
  at: number
  client: NumberedCaller
  service: string
  outcome: CallOutcome
  status: string
  ms: number | null
  isTold: boolean
  items: CallItem[]
  /** Items that are not listed. */
  more: number
}

export const callerKey = ({ name, from, as }: Caller) => `${name}\n${from}\n${as}`

/** Of one value so much is shown. */
const mostLetters = 300
const mostElements = 20

/** A value as it stands in a list of calls. */
export const callValue = (value: TagValue | null | undefined): string | null => {
  if (value === null || value === undefined) return null
  if (typeof value !== 'object') return String(value).slice(0, mostLetters)
  const shown = Array.from(value as ArrayLike<unknown>).slice(0, mostElements)
  const more = (value as ArrayLike<unknown>).length - shown.length
  return `[${shown.map(String).join(', ')}${more > 0 ? `, and ${more} more` : ''}]`.slice(0, mostLetters)
}

const text = new TextDecoder('utf-8', { fatal: true })
const mostBytesShown = 24

/** Bytes of a message: as text where they are text. @returns at most so much as is shown of one value */
export const payloadText = (bytes: Uint8Array | string): string => {
  if (typeof bytes === 'string') return bytes.slice(0, mostLetters)
  try {
    const shown = text.decode(bytes.length > mostLetters * 4 ? wholeLetters(bytes.subarray(0, mostLetters * 4)) : bytes)
    if (!/[\0-\x08\x0e-\x1f]/.test(shown)) return shown.slice(0, mostLetters)
  } catch {
    // it is no text
  }
  const hex = Array.from(bytes.subarray(0, mostBytesShown), (byte) => byte.toString(16).padStart(2, '0')).join(' ')
  return bytes.length > mostBytesShown ? `${hex} … (${bytes.length} bytes)` : hex
}

/** Without the letter of UTF-8 that was cut at the end (RFC 3629, 3). */
const wholeLetters = (bytes: Uint8Array): Uint8Array => {
  let end = bytes.length
  while (end > 0 && bytes.length - end < 3 && (bytes[end - 1]! & 0xc0) === 0x80) end--
  return (bytes[end - 1]! & 0xc0) === 0xc0 ? bytes.subarray(0, end - 1) : bytes
}

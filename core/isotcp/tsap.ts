/**
 * Which place of a controller a connection goes to: by two bytes in the far TSAP, the kind of connection and rack and slot,
 * as controllers of this kind have it, or by TSAPs that are given in full.
 */
export const connectionKinds = ['programming', 'operator', 'other'] as const
export type ConnectionKind = (typeof connectionKinds)[number]

const kindByte: Record<ConnectionKind, number> = { programming: 1, operator: 2, other: 3 }

export const connectionKindText: Record<ConnectionKind, string> = {
  programming: 'as a programming device does',
  operator: 'as an operator panel does',
  other: 'as other controllers do',
}

/** @param rack 0 to 7 @param slot 0 to 31 */
export const tsapOf = (kind: ConnectionKind, rack: number, slot: number): Uint8Array =>
  Uint8Array.from([kindByte[kind], (rack << 5) | slot])

/** Ours where rack and slot are given: any will do, and this one is the usual. */
export const usualOwnTsap = Uint8Array.from([1, 0])

/** A TSAP as people write it: bytes in hex, `03.01`, `03 01` or `0301`; else in quotation marks as text. Null: it is none. */
export const readTsap = (text: string): Uint8Array | null => {
  const quoted = /^"([\x20-\x7e]{1,16})"$/.exec(text.trim())
  if (quoted) return Uint8Array.from(quoted[1]!, (letter) => letter.charCodeAt(0))
  const digits = text.trim().replace(/[\s.:]/g, '')
  if (!/^([0-9a-fA-F]{2}){1,16}$/.test(digits)) return null
  return Uint8Array.from(digits.match(/../g)!, (pair) => Number.parseInt(pair, 16))
}

export const tsapText = (tsap: Uint8Array): string => Array.from(tsap, (byte) => byte.toString(16).padStart(2, '0').toUpperCase()).join('.')

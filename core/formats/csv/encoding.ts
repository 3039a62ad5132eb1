/** How the bytes of a text file are read. Names as the Encoding Standard has them. */
export const encodings = ['utf-8', 'windows-1252', 'utf-16le', 'utf-16be'] as const
export type Encoding = (typeof encodings)[number]

const marks: { encoding: Encoding; bytes: readonly number[] }[] = [
  { encoding: 'utf-8', bytes: [0xef, 0xbb, 0xbf] },
  { encoding: 'utf-16le', bytes: [0xff, 0xfe] },
  { encoding: 'utf-16be', bytes: [0xfe, 0xff] },
]

/** Which encoding a file is in: by its mark, else UTF-8 where that fits all of it, else what spreadsheets in Europe write. */
export const encodingOf = (bytes: Uint8Array): Encoding => {
  const marked = marks.find((mark) => mark.bytes.every((byte, i) => bytes[i] === byte))
  if (marked) return marked.encoding
  if (isUtf8(bytes)) return 'utf-8'
  return 'windows-1252'
}

const isUtf8 = (bytes: Uint8Array): boolean => {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    return true
  } catch {
    return false
  }
}

/** The text without its mark. Bytes that the encoding does not know become U+FFFD. */
export const decoded = (bytes: Uint8Array, encoding: Encoding): string => {
  const text = new TextDecoder(encoding).decode(bytes)
  return encoding === 'windows-1252' ? text.replace(/[\u0080-\u009f]/g, (control) => western[control.charCodeAt(0) - 0x80]!) : text
}

/** 0x80 to 0x9f (Encoding Standard, index windows-1252): not every release of Node.js knows that they are no controls. */
const western = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ'

/** With the mark by which spreadsheets know UTF-8. */
export const encoded = (text: string): Uint8Array => new TextEncoder().encode(`\ufeff${text}`)

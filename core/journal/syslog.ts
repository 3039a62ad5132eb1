import type { Entry, JournalSeverity } from './entry'

/** RFC 5424, 6.2.1. */
const severityNumber: Record<JournalSeverity, number> = { note: 6, caution: 4, trouble: 3 }
/** RFC 5424, 6.1: a receiver takes at least so much; longer ones may be cut anywhere. */
const mostBytes = 2048

/** Who tells it. */
export interface SyslogOrigin {
  /** 0 to 23. */
  facility: number
  host: string
  app: string
  process: number
}

/**
 * A message as RFC 5424, 6 has it, without a frame: UTF-8, at most 2048 bytes, cut between two characters. The code of a
 * fault is its structured data, the source its MSGID.
 *
 * @example
 * syslogMessage(entry, { facility: 16, host: 'quay', app: 'conduit', process: 12 })
 * // <131>1 2026-11-25T14:06:45.120Z quay conduit 12 Meters [fault@32473 code="tcp.refused"] \uFEFF…
 */
export const syslogMessage = (entry: Entry, { facility, host, app, process }: SyslogOrigin): Uint8Array => {
  const { at, severity, source, text, fault, times } = entry
  const data = fault ? `[fault@32473 code="${parameter(fault.code)}"]` : '-'
  const head = [
    `<${facility * 8 + severityNumber[severity]}>1`,
    new Date(at).toISOString(),
    name(host, 255),
    name(app, 48),
    name(String(process), 128),
    name(source, 32),
    data,
  ].join(' ')
  const counted = times > 1 ? ` (${times} times)` : ''
  // the mark of UTF-8 before the text: RFC 5424, 6.4
  return cut(new TextEncoder().encode(`${head} \uFEFF${oneLine(`${source}: ${text}${counted}`)}`))
}

/** Octet counting, for streams: RFC 6587, 3.4.1 and RFC 5425, 4.3. */
export const octetCounted = (message: Uint8Array): Uint8Array => {
  const length = new TextEncoder().encode(`${message.length} `)
  const framed = new Uint8Array(length.length + message.length)
  framed.set(length)
  framed.set(message, length.length)
  return framed
}

/** Printable US-ASCII without spaces; “-” where nothing is left. */
const name = (text: string, most: number) =>
  text
    .replace(/[^\x21-\x7e]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, most) || '-'
/** RFC 5424, 6.3.3: these three are escaped. */
const parameter = (text: string) => text.replace(/["\\\]]/g, (mark) => `\\${mark}`)
const oneLine = (text: string) => text.replace(/\s*[\r\n]+\s*/g, ' ')

const cut = (bytes: Uint8Array): Uint8Array => {
  if (bytes.length <= mostBytes) return bytes
  let end = mostBytes
  // never within a character
  while (end > 0 && (bytes[end]! & 0xc0) === 0x80) end--
  return bytes.subarray(0, end)
}

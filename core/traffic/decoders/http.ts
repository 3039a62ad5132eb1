import { statusText } from '../../http/status'
import { counted } from '../../text/counted'
import { decoderOf, piece } from '../decoder'
import type { FrameReader } from '../reader'
import type { Told } from '../told'

/** HTTP/1.1 (RFC 9112): a line, headers, and what is left is content. */

const latin = new TextDecoder('latin1')
/** What proves who somebody is, is not shown. */
const hiddenHeaders = /^(authorization|proxy-authorization|cookie|set-cookie|x-api-key)$/i
const methods = /^(GET|HEAD|POST|PUT|DELETE|CONNECT|OPTIONS|TRACE|PATCH) (\S+) HTTP\/1\.[01]$/
const statusLine = /^HTTP\/1\.[01] (\d{3})(?: (.*))?$/
const mostHeaders = 200

/** The text up to the end of a line, which is passed; null: no line ends here. */
const lineOf = (frame: FrameReader): { text: string; length: number } | null => {
  const end = frame.bytes.indexOf(10, frame.at)
  if (end < 0) return null
  const length = end + 1 - frame.at
  const text = latin.decode(frame.bytes.subarray(frame.at, end)).replace(/\r$/, '')
  return { text, length }
}

/** @returns whether what comes after them is content */
const headersOf = (frame: FrameReader): boolean => {
  for (let count = 0; count < mostHeaders; count++) {
    const line = lineOf(frame)
    if (!line) return false
    frame.pass(line.length)
    if (line.text === '') return true
    const colon = line.text.indexOf(':')
    const [name, value] = colon < 0 ? [line.text, ''] : [line.text.slice(0, colon), line.text.slice(colon + 1).trim()]
    frame.note(name.toLowerCase(), line.length, hiddenHeaders.test(name) ? `${counted(value.length, 'character')}, not shown` : value)
  }
  return false
}

const contentOf = (frame: FrameReader): number => {
  const { left } = frame
  frame.rest('content', (bytes) => latin.decode(bytes.subarray(0, 200)))
  return left
}

const told = (summary: string, role: Told['role'], call: string, about: string, isFine = true): Told => ({
  ...{ summary, role, call, about, key: 'http' },
  outcome: isFine ? 'fine' : 'refused',
})

export const httpDecoder = decoderOf((frame) => {
  const line = lineOf(frame)
  const request = line && methods.exec(line.text)
  if (line && request) {
    const [, method = '', path = ''] = request
    frame.pass(line.length)
    frame.note('request', line.length, `${method} ${path}`)
    const content = headersOf(frame) ? contentOf(frame) : 0
    return told(`${method} ${path}${content > 0 ? `, ${counted(content, 'byte')} of content` : ''}`, 'request', method, pathOf(path))
  }
  const status = line && statusLine.exec(line.text)
  if (line && status) {
    const code = Number(status[1])
    frame.pass(line.length)
    frame.note('status', line.length, code >= 400 ? `${code}, ${statusText(code)}` : line.text)
    if (code >= 400) frame.isWrong()
    const content = headersOf(frame) ? contentOf(frame) : 0
    return told(`${code} ${status[2] ?? ''}`.trim() + `, ${counted(content, 'byte')} of content`, 'answer', '', '', code < 400)
  }
  const { left } = frame
  frame.rest('content', (bytes) => latin.decode(bytes.subarray(0, 200)))
  return piece(`${counted(left, 'byte')} of content`, { outcome: 'fine' })
})

/** What was asked of is the same whatever was asked for. */
const pathOf = (path: string) => path.split('?')[0]!

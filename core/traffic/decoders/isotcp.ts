import { areaLetter, type Area } from '../../isotcp/address'
import { codeText, itemCode, itemMeaning, requestMeaning } from '../../isotcp/codes'
import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { hexText, type FrameReader } from '../reader'
import type { Told } from '../told'

/** Controllers over ISO transport: packets (RFC 1006, 6), TPDUs (RFC 905, 13), and the PDUs of the controller within. */

const transport: Record<number, string> = {
  0xe0: 'asks for a connection',
  0xd0: 'takes the connection',
  0x80: 'refuses or ends the connection',
  0x70: 'says that something is wrong',
  0xf0: 'data',
}
const parameterNames: Record<number, string> = { 0xc0: 'size of a TPDU', 0xc1: 'calling TSAP', 0xc2: 'called TSAP' }
const kindNames: Record<number, string> = { 1: 'request', 2: 'acknowledged', 3: 'answer', 7: 'user data' }
const functionNames: Record<number, string> = {
  ...{ 0xf0: 'agree on sizes', 0x04: 'read', 0x05: 'write', 0x1a: 'ask for a download', 0x1b: 'download a block', 0x1c: 'end a download' },
  ...{ 0x1d: 'begin an upload', 0x1e: 'upload', 0x1f: 'end an upload', 0x28: 'run a service', 0x29: 'stop' },
}
const areas: Record<number, Area> = { 0x81: 'input', 0x82: 'output', 0x83: 'flag', 0x84: 'block', 0x1c: 'counter', 0x1d: 'timer' }
const mostNamed = 3

const bytesText = (bytes: Uint8Array) => [...bytes.subarray(0, 16)].map((byte) => hexText(byte, 2).slice(2)).join(' ')

const connection = (frame: FrameReader, code: number): Told => {
  frame.u16('to reference')
  frame.u16('from reference')
  const reason = frame.u8(code === 0x80 ? 'reason' : 'class')
  while (frame.left >= 2) {
    const name = frame.u8('parameter', (value) => parameterNames[value] ?? hexText(value, 2))
    frame.data(parameterNames[name] ?? 'value', frame.u8('length'), bytesText)
  }
  const isRefused = code === 0x80
  return {
    summary: isRefused ? `connection refused or ended, reason ${reason}` : `${transport[code]}`,
    ...{ role: code === 0xe0 ? 'request' : 'answer', key: 'connect', about: '', call: 'connect' },
    outcome: isRefused ? 'refused' : 'fine',
  }
}

/** One piece of memory that is named, twelve bytes. */
const place = (frame: FrameReader): string => {
  frame.u8('a place', (value) => hexText(value, 2))
  const length = frame.u8('bytes that follow')
  const back = frame.within(length)
  const syntax = frame.u8('syntax', (value) => (value === 0x10 ? 'memory' : hexText(value, 2)))
  let text = 'a place that is named otherwise'
  if (syntax === 0x10) {
    const unit = frame.u8('unit', (value) => ({ 1: 'bits', 2: 'bytes', 0x1c: 'counters', 0x1d: 'timers' })[value] ?? hexText(value, 2))
    const count = frame.u16('quantity')
    const block = frame.u16('block')
    const code = frame.u8('area', (value) => areas[value] ?? hexText(value, 2))
    const at = frame.u24('offset', (value) => `byte ${value >> 3}, bit ${value & 7}`)
    text = placeText(areas[code], block, unit === 1, at, count)
  }
  frame.rest('rest of the place')
  back()
  return text
}

const placeText = (area: Area | undefined, block: number, isBit: boolean, at: number, count: number) => {
  if (!area) return 'a place that is named otherwise'
  const letter = area === 'block' ? `DB${block}.` : areaLetter[area]
  if (area === 'timer' || area === 'counter') return `${letter}${at}${count > 1 ? ` … ${at + count - 1}` : ''}`
  if (isBit) return `${letter}${at >> 3}.${at & 7}`
  return `${letter}${at >> 3}${count > 1 ? ` … ${(at >> 3) + count - 1}` : ''}`
}

const listed = (places: readonly string[]) =>
  places.slice(0, mostNamed).join(', ') + (places.length > mostNamed ? ` and ${places.length - mostNamed} more` : '')

/** What came of each place, and its data. */
const results = (frame: FrameReader, count: number, hasData: boolean): string[] => {
  const refused: string[] = []
  for (let i = 0; i < count; i++) {
    const code = frame.u8('result', (value) => (value === itemCode.ok ? 'fine' : `${codeText(value)}: ${itemMeaning(value).words}`))
    if (code !== itemCode.ok) {
      frame.isWrong()
      refused.push(`${codeText(code)}, ${itemMeaning(code).words}`)
    }
    if (!hasData) continue
    dataOf(frame, i === count - 1)
  }
  return refused
}

/** Counted in bits or bytes; filled up to an even number where more follows. */
const dataOf = (frame: FrameReader, isLast: boolean) => {
  const size = frame.u8('form', (value) => (value === 3 ? 'one bit' : value >= 4 && value <= 5 ? 'counted in bits' : 'counted in bytes'))
  const length = frame.u16('length')
  const bytes = size >= 3 && size <= 5 ? (length + 7) >> 3 : length
  frame.data('data', bytes, bytesText)
  if (!isLast && bytes % 2 === 1) frame.data('filled up', 1)
}

interface Said {
  summary: string
  isRefused?: boolean
}

const request = (frame: FrameReader, name: string, call: number): Said => {
  if (call !== 0x04 && call !== 0x05) return { summary: rest(frame, name) }
  const count = frame.u8('places')
  const places = Array.from({ length: count }, () => place(frame))
  if (call === 0x05)
    for (let i = 0; i < count; i++) {
      frame.u8('result', () => 'not yet')
      dataOf(frame, i === count - 1)
    }
  return { summary: `${name} ${listed(places)}` }
}

const answer = (frame: FrameReader, name: string, call: number): Said => {
  if (call !== 0x04 && call !== 0x05) return { summary: rest(frame, name) }
  const count = frame.u8('places')
  const refused = results(frame, count, call === 0x04)
  if (refused.length > 0) return { summary: `${refused.length} of ${counted(count, 'place')} refused: ${refused[0]}`, isRefused: true }
  return { summary: `${call === 0x04 ? '' : 'written, '}${counted(count, 'place')}` }
}

const rest = (frame: FrameReader, name: string) => {
  frame.rest('parameters')
  return name
}

const controller = (frame: FrameReader): Told => {
  frame.u8('protocol', (value) => (value === 0x32 ? 'of the controller' : hexText(value, 2)))
  const kind = frame.u8('kind', (value) => kindNames[value] ?? hexText(value, 2))
  frame.u16('spare')
  const reference = frame.u16('reference')
  frame.u16('bytes of parameters')
  frame.u16('bytes of data')
  const isAnswer = kind === 2 || kind === 3
  const wrong = isAnswer ? frame.u16('error', (code) => (code === 0 ? 'none' : `${codeText(code)}: ${requestMeaning(code).words}`)) : 0
  if (wrong !== 0) frame.isWrong()
  const told = (said: Said, call: string): Told => ({
    ...{ summary: said.summary, call, key: `r${reference}`, about: '' },
    role: kind === 1 ? 'request' : isAnswer ? 'answer' : 'notice',
    outcome: said.isRefused ? 'refused' : 'fine',
  })
  if (wrong !== 0) {
    frame.rest('data')
    return told({ summary: `refused, ${codeText(wrong)}: ${requestMeaning(wrong).words}`, isRefused: true }, '')
  }
  if ((kind !== 1 && kind !== 3) || frame.left === 0) return told({ summary: rest(frame, kindNames[kind] ?? `kind ${kind}`) }, '')
  const call = frame.u8('function', (value) => functionNames[value] ?? hexText(value, 2))
  const name = functionNames[call] ?? `function ${hexText(call, 2)}`
  return told((kind === 1 ? request : answer)(frame, name, call), name)
}

const reading: Reading = (frame) => {
  if (frame.peek(0) !== 3) return foreign(frame)
  frame.u8('version')
  frame.u8('spare')
  frame.u16('length', (value) => counted(value, 'byte'))
  frame.u8('head', (value) => counted(value, 'byte'))
  const code = frame.u8('TPDU', (value) => transport[value] ?? hexText(value, 2))
  if (code === 0xf0) {
    frame.u8('mark', (value) => (value & 0x80 ? 'the last of its message' : 'more follows'))
    return frame.left > 0 && frame.peek(0) === 0x32 ? controller(frame) : other(frame)
  }
  if (code === 0xe0 || code === 0xd0 || code === 0x80) return connection(frame, code)
  frame.rest('data')
  return piece(transport[code] ?? `TPDU ${hexText(code, 2)}`, { outcome: code === 0x70 ? 'refused' : 'odd' })
}

const foreign = (frame: FrameReader): Told => {
  frame.rest('bytes')
  return piece('bytes that are no packet of ISO transport')
}

const other = (frame: FrameReader): Told => {
  const { left } = frame
  frame.rest('data')
  return piece(`${counted(left, 'byte')} of data, not in the protocol of the controller`)
}

export const isoTcpDecoder = decoderOf(reading)

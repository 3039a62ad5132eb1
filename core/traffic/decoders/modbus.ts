import { exceptionMeaning } from '../../modbus/exceptions'
import { functionName } from '../../modbus/functions'
import { crc16 } from '../../modbus/rtu'
import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { hexText, type FrameReader } from '../reader'
import type { FrameDecoder, Told } from '../told'

/** Modbus: the application protocol (V1.1b3, 6) within TCP (Messaging on TCP/IP V1.0b, 3.1.3) or serial frames (Serial Line V1.02, 2.5). */

const tables: Record<number, string> = {
  1: 'coil',
  2: 'discrete',
  3: 'holding',
  4: 'input',
  5: 'coil',
  6: 'holding',
  15: 'coil',
  16: 'holding',
  22: 'holding',
}

const span = (table: string, start: number, count: number) => (count > 1 ? `${table}/${start} … ${start + count - 1}` : `${table}/${start}`)

interface Pdu {
  summary: string
  call: string
  isException?: true
}

const readPdu = (frame: FrameReader, fromClient: boolean): Pdu => {
  const code = frame.u8('function', (value) => (value & 0x80 ? `${functionName(value & 0x7f)}, refused` : functionName(value)))
  if (code & 0x80) {
    frame.isWrong()
    const exception = frame.u8('exception', (value) => {
      const { name, words } = exceptionMeaning(value)
      return `${value}, ${name}: ${words}`
    })
    frame.isWrong()
    return { summary: `exception ${exception}, ${exceptionMeaning(exception).name}`, call: functionName(code & 0x7f), isException: true }
  }
  return { call: functionName(code), summary: (fromClient ? requests[code] : answers[code])?.(frame, code) ?? other(frame, code) }
}

type Part = (frame: FrameReader, code: number) => string

const other: Part = (frame, code) => {
  frame.rest('data')
  return functionName(code)
}

const startAnd = (frame: FrameReader, what: string): [number, number] => [frame.u16('start'), frame.u16(what)]

const readRequest: Part = (frame, code) => {
  const [start, count] = startAnd(frame, 'quantity')
  return `read ${span(tables[code]!, start, count)}`
}
const bitsAnswer: Part = (frame) => {
  const bytes = frame.u8('bytes that follow')
  frame.data('bits', bytes, (data) => [...data].map((byte) => byte.toString(2).padStart(8, '0')).join(' '))
  return counted(bytes * 8, 'bit')
}
const words = (data: Uint8Array) => {
  const shown = Array.from({ length: Math.min(8, data.length >> 1) }, (_, i) => (data[2 * i]! << 8) | data[2 * i + 1]!)
  return shown.join(' ') + (data.length > 16 ? ' …' : '')
}
const wordsAnswer: Part = (frame) => {
  const bytes = frame.u8('bytes that follow')
  frame.data('words', bytes, words)
  return counted(bytes >> 1, 'word')
}
const writeOne: Part = (frame, code) => {
  const start = frame.u16('address')
  const value = frame.u16('value', (raw) =>
    code === 5 ? (raw === 0xff00 ? 'on' : raw === 0 ? 'off' : `${hexText(raw, 4)}, neither on nor off`) : String(raw),
  )
  const said = code === 5 ? (value === 0xff00 ? 'on' : 'off') : String(value)
  return `write ${tables[code]}/${start}: ${said}`
}
const writeMany: Part = (frame, code) => {
  const [start, count] = startAnd(frame, 'quantity')
  const bytes = frame.u8('bytes that follow')
  frame.data(code === 15 ? 'bits' : 'words', bytes, code === 15 ? undefined : words)
  return `write ${span(tables[code]!, start, count)}`
}
const written: Part = (frame, code) => {
  const [start, count] = startAnd(frame, 'quantity')
  return `written, ${span(tables[code]!, start, count)}`
}
const masked: Part = (frame) => {
  const start = frame.u16('address')
  frame.u16('and', (value) => hexText(value, 4))
  frame.u16('or', (value) => hexText(value, 4))
  return `mask holding/${start}`
}
const readAndWrite: Part = (frame) => {
  const [from, count] = startAnd(frame, 'quantity to read')
  const start = frame.u16('start to write')
  const many = frame.u16('quantity to write')
  frame.data('words', frame.u8('bytes that follow'), words)
  return `read ${span('holding', from, count)}, write ${span('holding', start, many)}`
}
const identify: Part = (frame, code) => {
  frame.u8('kind', (value) => (value === 14 ? 'read device identification' : String(value)))
  frame.rest('data')
  return functionName(code)
}

const requests: Record<number, Part> = {
  ...{ 1: readRequest, 2: readRequest, 3: readRequest, 4: readRequest, 5: writeOne, 6: writeOne, 15: writeMany, 16: writeMany },
  ...{ 22: masked, 23: readAndWrite, 43: identify },
}
const answers: Record<number, Part> = {
  ...{ 1: bitsAnswer, 2: bitsAnswer, 3: wordsAnswer, 4: wordsAnswer, 5: writeOne, 6: writeOne, 15: written, 16: written },
  ...{ 22: masked, 23: wordsAnswer, 43: identify },
}

const toldOf = ({ summary, call, isException }: Pdu, unit: number, fromClient: boolean, key: string): Told => ({
  summary: fromClient || isException ? `${summary}${fromClient ? ` of unit ${unit}` : ''}` : summary,
  role: fromClient ? 'request' : 'answer',
  ...{ key, about: `unit ${unit}`, call, outcome: isException ? 'refused' : 'fine' },
})

const readTcp: Reading = (frame, fromClient) => {
  const transaction = frame.u16('transaction')
  const protocol = frame.u16('protocol', (value) => (value === 0 ? 'Modbus' : `${value}, not Modbus`))
  if (protocol !== 0) {
    frame.isWrong()
    return piece('not Modbus TCP')
  }
  const length = frame.u16('length', (value) => `${counted(value, 'byte')} follow`)
  const back = frame.within(length)
  const unit = frame.u8('unit')
  const pdu = readPdu(frame, fromClient)
  back()
  return toldOf(pdu, unit, fromClient, `${transaction} ${unit}`)
}

export const modbusTcpDecoder = decoderOf(readTcp)

const crcText = (is: boolean) => (value: number) => `${hexText(value, 4)}, ${is ? 'right' : 'wrong'}`
const [colon, hexDigits] = [0x3a, /^[0-9A-F]*$/]

/** A frame in letters as the bytes that it stands for; null: it is none. */
const lettersOf = (bytes: Uint8Array): Uint8Array | null => {
  const text = String.fromCharCode(...bytes.subarray(1, 600)).replace(/\r?\n?$/, '')
  if (!hexDigits.test(text) || text.length < 6 || text.length % 2 === 1) return null
  return Uint8Array.from(text.match(/../g)!, (pair) => parseInt(pair, 16))
}

const readRtu: Reading = (frame, fromClient) => {
  const { bytes } = frame
  if (bytes.length < 4) return piece('too short for a frame of a serial line')
  const isRight = crc16(bytes, 0, bytes.length - 2) === (bytes[bytes.length - 2]! | (bytes[bytes.length - 1]! << 8))
  const back = frame.within(bytes.length - 2)
  const unit = frame.u8('unit', (value) => (value === 0 ? '0, all of them' : String(value)))
  const told = toldOf(readPdu(frame, fromClient), unit, fromClient, String(unit))
  frame.rest('more than belongs to it')
  back()
  frame.u16le('check', crcText(isRight))
  if (isRight) return told
  frame.isWrong()
  return { ...told, summary: `${told.summary}, its check is wrong`, outcome: 'odd' }
}

/** Frames in letters have their fields in the bytes that two letters each stand for. */
const readLetters = (bytes: Uint8Array, fromClient: boolean): ReturnType<FrameDecoder> | null => {
  const stands = lettersOf(bytes)
  if (!stands) return null
  const isRight = (stands.reduce((sum, byte) => sum + byte, 0) & 0xff) === 0
  const inner = decoderOf((frame) => {
    const back = frame.within(stands.length - 1)
    const unit = frame.u8('unit')
    const told = toldOf(readPdu(frame, fromClient), unit, fromClient, String(unit))
    frame.rest('more than belongs to it')
    back()
    frame.u8('check', (value) => `${hexText(value, 2)}, ${isRight ? 'right' : 'wrong'}`)
    if (isRight) return told
    frame.isWrong()
    return { ...told, summary: `${told.summary}, its check is wrong`, outcome: 'odd' }
  })(stands, fromClient)
  return { told: inner.told, fields: inner.fields.map((field) => ({ ...field, at: 1 + 2 * field.at, length: 2 * field.length })) }
}

const rtuDecoder = decoderOf(readRtu)

/** Frames of a serial line, in bytes or in letters. */
export const modbusLineDecoder: FrameDecoder = (bytes, fromClient) =>
  (bytes[0] === colon ? readLetters(bytes, fromClient) : null) ?? rtuDecoder(bytes, fromClient)

import { formatAddress, holdsBits } from '#core/modbus/address'
import { ordersMatter, wordOrderText } from '#core/modbus/layout'
import { takesOf } from '#core/modbus/taking'
import type { Form } from '#core/readings/forms'
import { readingsAt } from '#core/readings/readings'
import { oneSample } from '#core/readings/samples'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import type { TagValue } from '#core/tags/types'
import { readingRowOf } from '#shared/readingRows'
import type { ReadingRow, ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { PolledPoint, ReadBlock } from './readBlock'

/** Four registers hold the widest number, texts are longer; other readings of a value look at that many from its first one. */
const readingsLookAt = 12

interface Making {
  point: PolledPoint
  block: ReadBlock | undefined
  refusal: 'hole' | 'too-long' | 'past-end' | null
  /** Without other readings of the same words. */
  brief: boolean
}

/** Tells how a value is made: from the bytes of the last reply to what consumers get. */
export const originOf = ({ point, block, refusal, brief }: Making, table: SampleSink): ValueOrigin => {
  const fault = block?.fault ?? null
  if (!block?.bytes) return { stages: [missing(point, refusal)], readings: [], wordsFrom: placeOf(point), goesTo: [], fault }
  const raw = point.decode(block.bytes, block.indexOf(point))
  return {
    stages: [
      ...stagesFrom(point, block.bytes, block.indexOf(point), raw, { detail: replied(block), at: block.repliedAt }),
      passedStage(point.handle, point.layout.type, point.scaling, table),
    ],
    readings: brief || holdsBits(point.table) ? [] : readingRows(point, block.bytes.subarray(block.indexOf(point))),
    wordsFrom: readingsFrom(point, block.bytes.subarray(block.indexOf(point))),
    goesTo: [],
    fault,
  }
}

/** Names the words that the readings look at. */
export const readingsFrom = (point: PolledPoint, bytes: Buffer) =>
  `${counted(Math.min(readingsLookAt, bytes.length >> 1), 'word')} from ${formatAddress({ unit: null, table: point.table, offset: point.offset, bit: null })}`

/** The stages that need only the bytes; also used for an address that is not a tag yet. */
export const stagesFrom = (
  point: PolledPoint,
  bytes: Buffer,
  at: number,
  raw: TagValue,
  from: Pick<ValueStage, 'detail' | 'at'>,
): ValueStage[] => [wireStage(point, bytes, at, from), readStage(point, raw), ...madeStages(point, raw)]

const refusalText = {
  hole: 'The link declares this address as one that must not be read.',
  'too-long': 'The value is wider than one request may be on this link.',
  'past-end': 'The value reaches past the end of the table.',
}

const missing = (point: PolledPoint, refusal: keyof typeof refusalText | null): ValueStage => ({
  title: 'Words on the wire',
  text: 'none yet',
  detail: refusal ? refusalText[refusal] : `no reply for ${placeOf(point)} so far`,
})

const replied = (block: ReadBlock) => {
  const shared = block.plan.items.length - 1
  const company = shared === 0 ? 'alone in its request' : `with ${shared} other${shared === 1 ? '' : 's'} in one request`
  return `${company}, ${duration(block.answerMs)}, reply at`
}

const wireStage = (point: PolledPoint, bytes: Buffer, at: number, from: Pick<ValueStage, 'detail' | 'at'>): ValueStage => ({
  title: holdsBits(point.table) ? 'Bit on the wire' : `${point.count === 1 ? 'Word' : 'Words'} on the wire`,
  text: holdsBits(point.table)
    ? `bit ${at & 7} of ${hex(bytes.subarray(at >> 3, (at >> 3) + 1))}`
    : hex(bytes.subarray(at, at + 2 * point.count)),
  ...from,
})

const readStage = (point: PolledPoint, raw: TagValue): ValueStage => {
  const { type, order, bit, isBcd } = point.layout
  const orderText = ordersMatter(type) ? `, ${order}` : bit === null ? '' : `, bit ${bit}`
  const isNone = isBcd && Number.isNaN(raw)
  return {
    title: `Read as ${type}${isBcd ? ' in BCD' : ''}${orderText}`,
    text: isNone ? 'no decimal digits' : valueText(raw, type),
    detail: ordersMatter(type) ? wordOrderText[order] : '',
  }
}

/** All readings of the words from this point on, as far as they were part of the reply. */
export const readingRows = (point: PolledPoint, bytes: Buffer): ReadingRow[] => {
  const count = Math.min(readingsLookAt, bytes.length >> 1)
  const words = Array.from({ length: count }, (_, i) => bytes.readUInt16BE(2 * i))
  return readingsAt(oneSample(words), 0).map((reading) => readingRowOf(reading, takesOf, isInUse(reading.form, point.layout)))
}

const isInUse = ({ kind, order, width }: Form, { type, order: own, length, isBcd }: PolledPoint['layout']) => {
  if (type === 'string') return kind === 'text' && width === Math.ceil(length / 2)
  const read = isBcd ? (type === 'uint16' ? 'bcd16' : 'bcd32') : type
  return kind === read && (order === null || order === own)
}

export const placeOf = (point: PolledPoint) => {
  const place = formatAddress({ unit: null, table: point.table, offset: point.offset, bit: point.layout.bit })
  return holdsBits(point.table) || point.layout.type === 'bool' ? place : `${place}, ${point.count} ${point.count === 1 ? 'word' : 'words'}`
}

const hex = (bytes: Buffer) =>
  bytes
    .toString('hex')
    .toUpperCase()
    .replace(/(..)(?=.)/g, '$1 ')

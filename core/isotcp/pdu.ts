import type { Area } from './address'
import { itemCode } from './codes'

/**
 * Requests to a controller and its answers, one PDU each: a head of ten bytes (twelve in answers), parameters, data.
 * Whole numbers are big-endian.
 */

/** One piece of memory that a request names. */
export interface Piece {
  area: Area
  block: number
  /** Bytes from the beginning; of timers and counters the number. */
  offset: number
  /** A single bit; null: bytes. */
  bit: number | null
  /** Bytes, or timers and counters, or 1 bit. */
  count: number
}

export type PieceAnswer = { ok: true; data: Buffer } | { ok: false; code: number }

const protocolId = 0x32
const kinds = { job: 1, acknowledged: 2, answer: 3 } as const
const functions = { setup: 0xf0, read: 0x04, write: 0x05 } as const
const areaCode: Record<Area, number> = { input: 0x81, output: 0x82, flag: 0x83, block: 0x84, counter: 0x1c, timer: 0x1d }
const areaOf = new Map(Object.entries(areaCode).map(([area, code]) => [code, area as Area]))
const unitCode = { bit: 0x01, byte: 0x02, counter: 0x1c, timer: 0x1d } as const
/** How the length of data is counted: bits for these, bytes for the others. */
const countsBits = (size: number) => size >= 3 && size <= 5
const dataSize = { none: 0, bit: 3, byte: 4, octets: 9 } as const

const jobHead = 10
export const answerHead = 12
const setupBytes = 8
const readHead = 2
/** One piece in a request. */
export const pieceBytes = 12
/** Before the data of one piece, in an answer to a read and in a write. */
export const dataHead = 4

const widthOf = ({ area }: Pick<Piece, 'area'>) => (area === 'timer' || area === 'counter' ? 2 : 1)
/** Bytes that a piece brings. */
export const dataBytes = (piece: Pick<Piece, 'area' | 'count'>) => piece.count * widthOf(piece)
const even = (bytes: number) => bytes + (bytes & 1)

/** What a request and its answer may carry besides their heads, for a negotiated size. */
export const roomIn = (size: number) => ({
  /** Pieces of a read, by its request. */
  pieces: Math.floor((size - jobHead - readHead) / pieceBytes),
  /** Bytes of an answer for data with their heads. */
  answer: size - answerHead - readHead,
  /** The largest piece that can be read by itself, and written by itself. */
  read: size - answerHead - readHead - dataHead,
  write: size - jobHead - readHead - pieceBytes - dataHead,
})

/** What the answer to a piece takes of the room. */
export const answerRoom = (bytes: number) => dataHead + even(bytes)

const job = (reference: number, parameters: Buffer, data: Buffer = Buffer.alloc(0)): Buffer => {
  const head = Buffer.alloc(jobHead)
  head.set([protocolId, kinds.job])
  head.writeUInt16BE(reference, 4)
  head.writeUInt16BE(parameters.length, 6)
  head.writeUInt16BE(data.length, 8)
  return Buffer.concat([head, parameters, data])
}

export interface Negotiated {
  /** Requests under way at once, ours and theirs. */
  parallel: number
  /** Bytes of a PDU. */
  size: number
}

const setupParameters = ({ parallel, size }: Negotiated): Buffer => {
  const bytes = Buffer.alloc(setupBytes)
  bytes[0] = functions.setup
  bytes.writeUInt16BE(parallel, 2)
  bytes.writeUInt16BE(parallel, 4)
  bytes.writeUInt16BE(size, 6)
  return bytes
}

export const encodeSetup = (reference: number, wanted: Negotiated): Buffer => job(reference, setupParameters(wanted))

const pieceSpec = (piece: Piece): number[] => {
  const { area, block, offset, bit, count } = piece
  const unit = area === 'timer' || area === 'counter' ? unitCode[area] : bit === null ? unitCode.byte : unitCode.bit
  const at = area === 'timer' || area === 'counter' ? offset : 8 * offset + (bit ?? 0)
  return [
    0x12,
    0x0a,
    0x10,
    unit,
    count >> 8,
    count & 0xff,
    block >> 8,
    block & 0xff,
    areaCode[area],
    (at >> 16) & 0xff,
    (at >> 8) & 0xff,
    at & 0xff,
  ]
}

export const encodeRead = (reference: number, pieces: readonly Piece[]): Buffer =>
  job(reference, Buffer.from([functions.read, pieces.length, ...pieces.flatMap(pieceSpec)]))

/** Writes one piece. */
export const encodeWrite = (reference: number, piece: Piece, bytes: Uint8Array): Buffer =>
  job(
    reference,
    Buffer.from([functions.write, 1, ...pieceSpec(piece)]),
    dataOf(itemCodeNone, piece.bit === null ? dataSize.byte : dataSize.bit, bytes),
  )

const itemCodeNone = 0

const dataOf = (code: number, size: number, bytes: Uint8Array): Buffer => {
  const length = size === dataSize.bit ? 1 : countsBits(size) ? 8 * bytes.length : bytes.length
  return Buffer.concat([Buffer.from([code, size, length >> 8, length & 0xff]), bytes])
}

export interface Answer {
  reference: number
  /** Class and code of an error of the whole request; 0: there is none. */
  error: number
  parameters: Buffer
  data: Buffer
}
export type Decoded<T> = { ok: true; value: T } | { ok: false; problem: string }
const broken = (problem: string): { ok: false; problem: string } => ({ ok: false, problem })

/** Takes an answer apart as far as its head says. */
export const decodeAnswer = (pdu: Buffer): Decoded<Answer> => {
  if (pdu.length < answerHead || pdu[0] !== protocolId) return broken(`a PDU of ${pdu.length} bytes does not begin as one of this protocol`)
  if (pdu[1] !== kinds.answer && pdu[1] !== kinds.acknowledged) return broken(`a PDU of kind ${pdu[1]} came where an answer is due`)
  const [parameters, data] = [pdu.readUInt16BE(6), pdu.readUInt16BE(8)]
  if (answerHead + parameters + data !== pdu.length)
    return broken(`an answer says that it is ${answerHead + parameters + data} bytes long, and has ${pdu.length}`)
  return {
    ok: true,
    value: {
      reference: pdu.readUInt16BE(4),
      error: pdu.readUInt16BE(10),
      parameters: pdu.subarray(answerHead, answerHead + parameters),
      data: pdu.subarray(answerHead + parameters),
    },
  }
}

export const decodeSetup = ({ parameters }: Answer): Decoded<Negotiated> => {
  if (parameters.length < setupBytes || parameters[0] !== functions.setup) return broken('the answer to the negotiation is none')
  const [size, parallel] = [parameters.readUInt16BE(6), parameters.readUInt16BE(4)]
  if (size < 64) return broken(`a PDU of ${size} bytes is granted, and that is too small for anything`)
  return { ok: true, value: { size, parallel: Math.max(1, parallel) } }
}

/** What each piece of a read brought. */
export const decodeRead = (
  { parameters, data }: Answer,
  pieces: readonly Pick<Piece, 'area' | 'count' | 'bit'>[],
): Decoded<PieceAnswer[]> => {
  if (parameters[0] !== functions.read || parameters[1] !== pieces.length)
    return broken(`the answer holds ${parameters[1] ?? 0} pieces, and ${pieces.length} were asked for`)
  const answers: PieceAnswer[] = []
  let at = 0
  for (const piece of pieces) {
    if (at + dataHead > data.length) return broken('the answer ends before its last piece')
    const [code, size, length] = [data[at]!, data[at + 1]!, data.readUInt16BE(at + 2)]
    const bytes = code === itemCode.ok ? (countsBits(size) ? Math.ceil(length / 8) : length) : 0
    const from = at + dataHead
    if (from + bytes > data.length) return broken('a piece of the answer is longer than what came')
    if (code === itemCode.ok && bytes !== dataBytes(piece))
      return broken(`a piece brought ${bytes} bytes where ${dataBytes(piece)} were asked for`)
    answers.push(code === itemCode.ok ? { ok: true, data: data.subarray(from, from + bytes) } : { ok: false, code })
    at = from + even(bytes)
  }
  return { ok: true, value: answers }
}

/** What became of the piece that was written. */
export const decodeWritten = ({ parameters, data }: Answer): Decoded<number> =>
  parameters[0] === functions.write && data.length >= 1 ? { ok: true, value: data[0]! } : broken('the answer to a write is none')

/** What a controller is asked, as it gets it. */
export type Job =
  | { kind: 'setup'; reference: number; wanted: Negotiated }
  | { kind: 'read'; reference: number; pieces: Piece[] }
  | { kind: 'write'; reference: number; pieces: { piece: Piece; bytes: Buffer }[] }

/** Takes a request apart; null: it is none of these. */
export const decodeJob = (pdu: Buffer): Job | null => {
  if (pdu.length < jobHead + 1 || pdu[0] !== protocolId || pdu[1] !== kinds.job) return null
  const reference = pdu.readUInt16BE(4)
  const parameters = pdu.subarray(jobHead, jobHead + pdu.readUInt16BE(6))
  const data = pdu.subarray(jobHead + parameters.length)
  if (parameters[0] === functions.setup && parameters.length >= setupBytes)
    return { kind: 'setup', reference, wanted: { parallel: parameters.readUInt16BE(2), size: parameters.readUInt16BE(6) } }
  const pieces = piecesIn(parameters)
  if (pieces === null) return null
  if (parameters[0] === functions.read) return { kind: 'read', reference, pieces }
  return parameters[0] === functions.write ? { kind: 'write', reference, pieces: written(pieces, data) } : null
}

const piecesIn = (parameters: Buffer): Piece[] | null => {
  const pieces: Piece[] = []
  for (let i = 0; i < (parameters[1] ?? 0); i++) {
    const spec = parameters.subarray(readHead + i * pieceBytes, readHead + (i + 1) * pieceBytes)
    const area = areaOf.get(spec[8] ?? 0)
    if (spec.length < pieceBytes || area === undefined) return null
    const at = (spec[9]! << 16) | (spec[10]! << 8) | spec[11]!
    const isBytes = area !== 'timer' && area !== 'counter'
    pieces.push({
      ...{ area, block: spec.readUInt16BE(6), count: spec.readUInt16BE(4) },
      offset: isBytes ? at >> 3 : at,
      bit: isBytes && spec[3] === unitCode.bit ? at & 7 : null,
    })
  }
  return pieces
}

const written = (pieces: Piece[], data: Buffer) => {
  let at = 0
  return pieces.map((piece) => {
    const [size, length] = [data[at + 1] ?? 0, data.length >= at + dataHead ? data.readUInt16BE(at + 2) : 0]
    const bytes = countsBits(size) ? Math.ceil(length / 8) : length
    const part = data.subarray(at + dataHead, at + dataHead + bytes)
    at += dataHead + even(bytes)
    return { piece, bytes: part }
  })
}

const answer = (reference: number, error: number, parameters: Buffer, data: Buffer = Buffer.alloc(0)): Buffer => {
  const head = Buffer.alloc(answerHead)
  head.set([protocolId, kinds.answer])
  head.writeUInt16BE(reference, 4)
  head.writeUInt16BE(parameters.length, 6)
  head.writeUInt16BE(data.length, 8)
  head.writeUInt16BE(error, 10)
  return Buffer.concat([head, parameters, data])
}

export const encodeSetupAnswer = (reference: number, granted: Negotiated): Buffer => answer(reference, 0, setupParameters(granted))
export const encodeError = (reference: number, error: number): Buffer => answer(reference, error, Buffer.alloc(0))

export const encodeReadAnswer = (reference: number, pieces: readonly Piece[], answers: readonly PieceAnswer[]): Buffer => {
  const parts = answers.map((one, i) => {
    if (!one.ok) return dataOf(one.code, dataSize.none, Buffer.alloc(0))
    const { area, bit } = pieces[i]!
    const size = area === 'timer' || area === 'counter' ? dataSize.octets : bit === null ? dataSize.byte : dataSize.bit
    const part = dataOf(itemCode.ok, size, one.data)
    // all but the last begin at even places
    return part.length % 2 === 1 && i < answers.length - 1 ? Buffer.concat([part, Buffer.alloc(1)]) : part
  })
  return answer(reference, 0, Buffer.from([functions.read, answers.length]), Buffer.concat(parts))
}

export const encodeWriteAnswer = (reference: number, codes: readonly number[]): Buffer =>
  answer(reference, 0, Buffer.from([functions.write, codes.length]), Buffer.from(codes))

/**
 * Protocol data units: Modbus Application Protocol V1.1b3, clause 6. Requests and replies of
 * functions 1–6, 15, 16, 22 and 23, both ways, and exceptions. Everything here is pure: buffers
 * in, plain objects out.
 */
/** Most that one request may ask for (6.1 to 6.4, 6.11, 6.12, 6.17). */
export const limits = {
  readBits: 2000,
  readRegisters: 125,
  writeCoils: 1968,
  writeRegisters: 123,
  readWriteRead: 125,
  readWriteWrite: 121,
} as const

export const maxPduLength = 253

export type ReadFunction = 1 | 2 | 3 | 4

export type Request =
  | { fc: ReadFunction; offset: number; count: number }
  | { fc: 5; offset: number; on: boolean }
  | { fc: 6; offset: number; register: number }
  | { fc: 15; offset: number; coils: boolean[] }
  | { fc: 16; offset: number; registers: number[] }
  | { fc: 22; offset: number; andMask: number; orMask: number }
  | { fc: 23; offset: number; count: number; writeOffset: number; registers: number[] }

export type Reply =
  | { fc: ReadFunction; data: Buffer }
  | { fc: 5; offset: number; on: boolean }
  | { fc: 6; offset: number; register: number }
  | { fc: 15 | 16; offset: number; count: number }
  | { fc: 22; offset: number; andMask: number; orMask: number }
  | { fc: 23; data: Buffer }

export type Decoded<T> = { ok: true; value: T } | { ok: false; problem: string }
export type DecodedReply = Decoded<Reply> | { ok: false; exception: number; problem: string }

const coilOn = 0xff00
const coilOff = 0x0000

export const encodeRequest = (request: Request): Buffer => {
  switch (request.fc) {
    case 1:
    case 2:
    case 3:
    case 4:
      return words(request.fc, request.offset, request.count)
    case 5:
      return words(5, request.offset, request.on ? coilOn : coilOff)
    case 6:
      return words(6, request.offset, request.register)
    case 15:
      return withBytes(words(15, request.offset, request.coils.length), packBits(request.coils))
    case 16:
      return withBytes(words(16, request.offset, request.registers.length), packRegisters(request.registers))
    case 22:
      return words(22, request.offset, request.andMask, request.orMask)
    case 23:
      return withBytes(
        words(23, request.offset, request.count, request.writeOffset, request.registers.length),
        packRegisters(request.registers),
      )
  }
}

export const encodeReply = (reply: Reply): Buffer => {
  switch (reply.fc) {
    case 1:
    case 2:
    case 3:
    case 4:
    case 23:
      return withBytes(Buffer.from([reply.fc]), reply.data)
    case 5:
      return words(5, reply.offset, reply.on ? coilOn : coilOff)
    case 6:
      return words(6, reply.offset, reply.register)
    case 15:
    case 16:
      return words(reply.fc, reply.offset, reply.count)
    case 22:
      return words(22, reply.offset, reply.andMask, reply.orMask)
  }
}

export const encodeException = (fc: number, code: number): Buffer => Buffer.from([fc | 0x80, code])

/** Reads what a client sent. Counts outside the limits are left to the caller: they earn exception 3. */
export const decodeRequest = (pdu: Buffer): Decoded<Request> => {
  const fc = pdu[0]
  const need = fc === undefined ? 1 : (requestLength[fc] ?? 0)
  if (fc === undefined || need === 0) return no(`function ${fc ?? '(none)'} is not one we speak`)
  if (pdu.length < need) return no(`function ${fc} needs ${need} bytes, ${pdu.length} came`)
  const offset = pdu.readUInt16BE(1)
  switch (fc) {
    case 1:
    case 2:
    case 3:
    case 4:
      return yes({ fc, offset, count: pdu.readUInt16BE(3) })
    case 5:
      return coilValue(pdu.readUInt16BE(3), (on) => ({ fc: 5, offset, on }))
    case 6:
      return yes({ fc, offset, register: pdu.readUInt16BE(3) })
    case 15:
      return multiple(pdu, 5, Math.ceil(pdu.readUInt16BE(3) / 8), (data) => ({
        fc: 15,
        offset,
        coils: unpackBits(data, pdu.readUInt16BE(3)),
      }))
    case 16:
      return multiple(pdu, 5, 2 * pdu.readUInt16BE(3), (data) => ({ fc: 16, offset, registers: unpackRegisters(data) }))
    case 22:
      return yes({ fc, offset, andMask: pdu.readUInt16BE(3), orMask: pdu.readUInt16BE(5) })
    default:
      return multiple(pdu, 9, 2 * pdu.readUInt16BE(7), (data) => ({
        fc: 23,
        offset,
        count: pdu.readUInt16BE(3),
        writeOffset: pdu.readUInt16BE(5),
        registers: unpackRegisters(data),
      }))
  }
}

const requestLength: Record<number, number> = { 1: 5, 2: 5, 3: 5, 4: 5, 5: 5, 6: 5, 15: 6, 16: 6, 22: 7, 23: 10 }

/**
 * Reads what a server answered to `request`, and checks that it is an answer to that request:
 * same function, same echo, as many bytes as were asked for.
 */
export const decodeReply = (pdu: Buffer, request: Request): DecodedReply => {
  const fc = pdu[0]
  if (fc === undefined) return no('the reply is empty')
  if (fc === (request.fc | 0x80)) return exceptionReply(pdu)
  if (fc !== request.fc) return no(`asked with function ${request.fc}, answered with ${fc}`)
  switch (request.fc) {
    case 1:
    case 2:
      return readReply(pdu, request.fc, Math.ceil(request.count / 8))
    case 3:
    case 4:
    case 23:
      return readReply(pdu, request.fc, 2 * request.count)
    default:
      return echoReply(pdu, request)
  }
}

const exceptionReply = (pdu: Buffer): DecodedReply =>
  pdu.length < 2 ? no('an exception without its code') : { ok: false, exception: pdu[1]!, problem: `exception ${pdu[1]}` }

const readReply = (pdu: Buffer, fc: ReadFunction | 23, bytes: number): DecodedReply => {
  if (pdu.length < 2 || pdu[1] !== bytes || pdu.length < 2 + bytes)
    return no(`expected ${bytes} bytes of data, the reply declares ${pdu[1] ?? 0} and carries ${Math.max(0, pdu.length - 2)}`)
  return { ok: true, value: { fc, data: pdu.subarray(2, 2 + bytes) } as Reply }
}

type WriteRequest = Exclude<Request, { fc: ReadFunction } | { fc: 23 }>

const echoReply = (pdu: Buffer, request: WriteRequest): DecodedReply => {
  const expected = encodeReply(expectedEcho(request))
  if (!pdu.subarray(0, expected.length).equals(expected)) return no('the reply does not repeat what was written')
  return { ok: true, value: expectedEcho(request) }
}

const expectedEcho = (request: WriteRequest): Reply => {
  if (request.fc === 15) return { fc: 15, offset: request.offset, count: request.coils.length }
  if (request.fc === 16) return { fc: 16, offset: request.offset, count: request.registers.length }
  return request
}

const words = (fc: number, ...values: number[]): Buffer => {
  const pdu = Buffer.allocUnsafe(1 + 2 * values.length)
  pdu[0] = fc
  for (let i = 0; i < values.length; i++) pdu.writeUInt16BE(values[i]!, 1 + 2 * i)
  return pdu
}

const withBytes = (head: Buffer, data: Buffer): Buffer => Buffer.concat([head, Buffer.from([data.length]), data])

/** First coil in the least significant bit of the first byte (6.1). */
export const packBits = (bits: readonly boolean[]): Buffer => {
  const bytes = Buffer.alloc(Math.ceil(bits.length / 8))
  bits.forEach((on, i) => {
    if (on) bytes[i >> 3]! |= 1 << (i & 7)
  })
  return bytes
}

export const bitAt = (bytes: Buffer, index: number) => ((bytes[index >> 3]! >>> (index & 7)) & 1) === 1

const unpackBits = (bytes: Buffer, count: number): boolean[] => Array.from({ length: count }, (_, i) => bitAt(bytes, i))

export const packRegisters = (registers: readonly number[]): Buffer => {
  const bytes = Buffer.allocUnsafe(2 * registers.length)
  registers.forEach((register, i) => bytes.writeUInt16BE(register, 2 * i))
  return bytes
}

const unpackRegisters = (bytes: Buffer): number[] => Array.from({ length: bytes.length >> 1 }, (_, i) => bytes.readUInt16BE(2 * i))

const multiple = (pdu: Buffer, countAt: number, bytes: number, make: (data: Buffer) => Request): Decoded<Request> => {
  if (pdu[countAt] !== bytes || pdu.length < countAt + 1 + bytes)
    return no(`declares ${pdu[countAt]} bytes, the count asks for ${bytes}, ${pdu.length - countAt - 1} came`)
  return yes(make(pdu.subarray(countAt + 1, countAt + 1 + bytes)))
}

const coilValue = (word: number, make: (on: boolean) => Request): Decoded<Request> =>
  word === coilOn || word === coilOff ? yes(make(word === coilOn)) : no(`0x${word.toString(16)} is neither on nor off`)

const yes = (value: Request): Decoded<Request> => ({ ok: true, value })
const no = (problem: string): { ok: false; problem: string } => ({ ok: false, problem })

import { Malformed } from './tagged'

/** Messages between applications and the parts of long ones (ANSI/ASHRAE 135, 20.1). */

/** Services that are confirmed (21, BACnetConfirmedServiceChoice), as far as they are used here. */
export const confirmed = { covNotification: 1, subscribeCov: 5, readProperty: 12, readMultiple: 14, writeProperty: 15, subscribeCovProperty: 28 } as const // prettier-ignore
export const unconfirmed = { iAm: 0, covNotification: 2, whoIs: 8 } as const

const kinds = ['request', 'unconfirmed', 'ack', 'answer', 'segment-ack', 'error', 'reject', 'abort'] as const

export type Apdu =
  | { kind: 'request'; invoke: number; service: number; content: Buffer; isSegmented: boolean }
  | { kind: 'unconfirmed'; service: number; content: Buffer }
  | { kind: 'ack'; invoke: number; service: number }
  | { kind: 'answer'; invoke: number; service: number; content: Buffer; segment: Segment | null }
  | { kind: 'segment-ack'; invoke: number }
  | { kind: 'error'; invoke: number; service: number; content: Buffer }
  | { kind: 'reject' | 'abort'; invoke: number; reason: number }

/** One part of a long answer (20.1.5). */
export interface Segment {
  number: number
  /** After so many a receipt is due. */
  window: number
  isLast: boolean
}

/** @throws Malformed */
export const decodeApdu = (bytes: Buffer): Apdu => {
  const kind = kinds[(bytes[0] ?? 0xff) >> 4]
  const need = (count: number) => {
    if (bytes.length < count) throw new Malformed('a message is cut off')
  }
  switch (kind) {
    case 'request': {
      const isSegmented = (bytes[0]! & 0x08) !== 0
      const at = isSegmented ? 5 : 3
      need(at + 1)
      return { kind, invoke: bytes[2]!, service: bytes[at]!, content: bytes.subarray(at + 1), isSegmented }
    }
    case 'unconfirmed':
      need(2)
      return { kind, service: bytes[1]!, content: bytes.subarray(2) }
    case 'ack':
      need(3)
      return { kind, invoke: bytes[1]!, service: bytes[2]! }
    case 'answer': {
      const isSegmented = (bytes[0]! & 0x08) !== 0
      const at = isSegmented ? 4 : 2
      need(at + 1)
      const segment = isSegmented ? { number: bytes[2]!, window: bytes[3]!, isLast: (bytes[0]! & 0x04) === 0 } : null
      return { kind, invoke: bytes[1]!, service: bytes[at]!, content: bytes.subarray(at + 1), segment }
    }
    case 'segment-ack':
      need(4)
      return { kind, invoke: bytes[1]! }
    case 'error':
      need(3)
      return { kind, invoke: bytes[1]!, service: bytes[2]!, content: bytes.subarray(3) }
    case 'reject':
    case 'abort':
      need(3)
      return { kind, invoke: bytes[1]!, reason: bytes[2]! }
    default:
      throw new Malformed(`there is no message of kind ${(bytes[0] ?? 0xff) >> 4}`)
  }
}

/** What fits into one message, by the codes of 20.1.2.5. */
const sizes = [50, 128, 206, 480, 1024, 1476] as const
export const mostBytes = 1476
/** More than 64 parts. */
const anyParts = 0x70

const sizeCode = (bytes: number): number =>
  Math.max(
    0,
    sizes.findLastIndex((size) => size <= bytes),
  )

/** @param room bytes of an answer that we take in one part */
export const encodeRequest = (invoke: number, service: number, content: Buffer, room = mostBytes): Buffer =>
  // it takes answers in parts
  Buffer.concat([Buffer.from([0x02, anyParts | sizeCode(room), invoke, service]), content])

export const encodeUnconfirmed = (service: number, content: Buffer): Buffer => Buffer.concat([Buffer.from([0x10, service]), content])

export const encodeAck = (invoke: number, service: number): Buffer => Buffer.from([0x20, invoke, service])

/** @param isGap the part before the one that came is missing */
export const encodeSegmentAck = (invoke: number, number: number, window: number, isGap: boolean): Buffer =>
  Buffer.from([0x40 | (isGap ? 0x02 : 0), invoke, number, window])

export const encodeReject = (invoke: number, reason: number): Buffer => Buffer.from([0x60, invoke, reason])
export const encodeAbort = (invoke: number, reason: number): Buffer => Buffer.from([0x70, invoke, reason])
/** @param error class and code */
export const encodeError = (invoke: number, service: number, error: Buffer): Buffer =>
  Buffer.concat([Buffer.from([0x50, invoke, service]), error])

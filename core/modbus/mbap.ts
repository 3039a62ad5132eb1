import { serviceOf } from '../diagnosis/service'
import type { Cut, Cutter, Frame } from './frame'
import { maxPduLength } from './pdu'

/**
 * The frame of Modbus TCP: MODBUS Messaging on TCP/IP Implementation Guide V1.0b, 3.1.3.
 * Transaction id, protocol id (0), length of what follows, unit id, PDU.
 */

const headerLength = 7
const maxFrameLength = headerLength + maxPduLength

export const encodeFrame = (transaction: number, unit: number, pdu: Buffer): Buffer => {
  const frame = Buffer.allocUnsafe(headerLength + pdu.length)
  frame.writeUInt16BE(transaction, 0)
  frame.writeUInt16BE(0, 2)
  frame.writeUInt16BE(pdu.length + 1, 4)
  frame[6] = unit
  pdu.copy(frame, headerLength)
  return frame
}

/**
 * Cuts a byte stream into frames. TCP may deliver half a frame or several at once; what is not
 * whole yet is kept for the next call. A stream that cannot be Modbus TCP is reported as a
 * problem: byte streams do not resynchronise, so the connection has to be closed.
 */
export class FrameCutter implements Cutter {
  private rest: Buffer = Buffer.alloc(0)

  push(chunk: Buffer): Cut {
    this.rest = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk])
    const frames: Frame[] = []
    while (this.rest.length >= headerLength) {
      const problem = headerProblem(this.rest)
      if (problem) return { frames, problem, service: serviceOf(this.rest)?.title ?? null, noise: 0 }
      const end = 6 + this.rest.readUInt16BE(4)
      if (this.rest.length < end) break
      frames.push({
        transaction: this.rest.readUInt16BE(0),
        unit: this.rest[6]!,
        pdu: this.rest.subarray(headerLength, end),
      })
      this.rest = this.rest.subarray(end)
    }
    return { frames, problem: null, service: null, noise: 0 }
  }

  /** A stream of bytes has no silence that would mean anything. */
  silence(): Cut {
    return { frames: [], problem: null, service: null, noise: 0 }
  }

  /** How many bytes of an unfinished frame are waiting. */
  get waiting() {
    return this.rest.length
  }
}

const headerProblem = (bytes: Buffer): string | null => {
  const protocol = bytes.readUInt16BE(2)
  const length = bytes.readUInt16BE(4)
  if (protocol !== 0) return `protocol id ${protocol} where Modbus TCP has 0`
  if (length < 2 || 6 + length > maxFrameLength) return `a frame of ${length} bytes, where 2 to ${maxFrameLength - 6} are possible`
  return null
}

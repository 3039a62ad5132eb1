import { identifies } from './identification'
import { maxPduLength } from './pdu'
import type { Cut, Cutter, Expected, Frame } from './frame'

/**
 * Frames of serial lines: MODBUS over Serial Line V1.02, 2.5.1. Unit, PDU, and a check of two bytes. On a line frames are
 * told apart by silence; in a stream of bytes their length follows from the function, and the check says whether it does.
 */

const table = new Uint16Array(256).map((_, byte) => {
  let crc = byte
  for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0xa001 : crc >>> 1
  return crc
})

/** CRC-16 as the appendix of the standard has it: polynomial 0xA001, begun with 0xFFFF, low byte first on the wire. */
export const crc16 = (bytes: Uint8Array, from = 0, to = bytes.length): number => {
  let crc = 0xffff
  for (let at = from; at < to; at++) crc = (crc >>> 8) ^ table[(crc ^ bytes[at]!) & 0xff]!
  return crc
}

export const encodeRtu = (unit: number, pdu: Buffer): Buffer => {
  const frame = Buffer.allocUnsafe(pdu.length + 3)
  frame[0] = unit
  pdu.copy(frame, 1)
  frame.writeUInt16LE(crc16(frame, 0, pdu.length + 1), pdu.length + 1)
  return frame
}

const shortest = 4
const longest = 1 + maxPduLength + 2

/** Cuts a stream of bytes into frames; bytes that belong to none are noise, and the next frame is looked for behind them. */
export class RtuCutter implements Cutter {
  private rest: Buffer = Buffer.alloc(0)

  constructor(private expected: Expected) {}

  push(chunk: Buffer): Cut {
    this.rest = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk])
    return this.cut(false)
  }

  /** The line is silent: whatever is not whole by now will not be, and what stands behind noise may be. */
  silence(): Cut {
    const cut = this.cut(true)
    const noise = cut.noise + this.rest.length
    this.rest = Buffer.alloc(0)
    return { ...cut, noise }
  }

  get waiting() {
    return this.rest.length
  }

  private cut(isSilent: boolean): Cut {
    const frames: Frame[] = []
    let [at, noise] = [0, 0]
    while (this.rest.length - at >= shortest) {
      const length = this.lengthAt(at, isSilent)
      if (length !== null && this.rest.length - at < length && !isSilent) break
      if (length !== null && this.isFrame(at, length)) {
        frames.push({ transaction: 0, unit: this.rest[at]!, pdu: this.rest.subarray(at + 1, at + length - 2) })
        at += length
      } else {
        at++
        noise++
      }
    }
    this.rest = this.rest.subarray(at)
    return { frames, problem: null, service: null, noise }
  }

  /** By its function; one that we do not know ends where the line falls silent. Null: no frame begins here. */
  private lengthAt(at: number, isSilent: boolean): number | null {
    const { rest } = this
    const fc = rest[at + 1]!
    if (fc === 0) return null
    const length = this.expected === 'reply' ? replyLength(rest, at, fc) : requestLength(rest, at, fc)
    if (length === null) return isSilent ? Math.min(rest.length - at, longest) : unknownLength(rest, at)
    return length > longest ? null : length
  }

  private isFrame(at: number, length: number): boolean {
    const { rest } = this
    return rest.length - at >= length && length >= shortest && crc16(rest, at, at + length - 2) === rest.readUInt16LE(at + length - 2)
  }
}

/** Of a function that is not known: as long as what came together, where the check agrees. */
const unknownLength = (bytes: Buffer, at: number): number => Math.min(bytes.length - at, longest)

/** How long the frame is that begins here, by its function; null: its function is not known. */
export const rtuLength = (bytes: Uint8Array, isRequest: boolean): number | null =>
  isRequest ? requestLength(bytes, 0, bytes[1]!) : replyLength(bytes, 0, bytes[1]!)

const requestLength = (bytes: Uint8Array, at: number, fc: number): number | null => {
  if (fc >= 1 && fc <= 6) return 8
  if (fc === 15 || fc === 16) return bytes.length - at > 6 ? 9 + bytes[at + 6]! : 9
  if (fc === 22) return 10
  if (fc === 23) return bytes.length - at > 10 ? 13 + bytes[at + 10]! : 13
  if (fc === identifies) return 7
  return null
}

const replyLength = (bytes: Uint8Array, at: number, fc: number): number | null => {
  if (fc & 0x80) return 5
  if ((fc >= 1 && fc <= 4) || fc === 23) return 5 + bytes[at + 2]!
  if (fc === 5 || fc === 6 || fc === 15 || fc === 16) return 8
  return fc === 22 ? 10 : null
}

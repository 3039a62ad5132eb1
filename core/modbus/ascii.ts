import { maxPduLength } from './pdu'
import type { Cut, Cutter, Frame } from './frame'

/**
 * Frames in letters: MODBUS over Serial Line V1.02, 2.5.2. A colon, each byte as two hexadecimal digits, a check of one
 * byte, CR and LF.
 */

/** The check: two's complement of the sum of the bytes (2.5.2.2). */
export const lrc8 = (bytes: Uint8Array): number => -bytes.reduce((sum, byte) => sum + byte, 0) & 0xff

export const encodeAscii = (unit: number, pdu: Buffer): Buffer => {
  const bytes = Buffer.concat([Buffer.from([unit]), pdu])
  return Buffer.from(`:${bytes.toString('hex').toUpperCase()}${hex(lrc8(bytes))}\r\n`, 'latin1')
}

const hex = (byte: number) => byte.toString(16).toUpperCase().padStart(2, '0')

const [colon, lineFeed, carriageReturn] = [0x3a, 0x0a, 0x0d]
/** Colon, twice the unit, the PDU and the check, CR and LF. */
const longest = 1 + 2 * (maxPduLength + 2) + 2

/** Cuts a stream of letters into frames; a colon begins a new one whatever came before it. */
export class AsciiCutter implements Cutter {
  private rest: Buffer = Buffer.alloc(0)

  push(chunk: Buffer): Cut {
    this.rest = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk])
    const frames: Frame[] = []
    let noise = 0
    for (let end = this.rest.indexOf(lineFeed); end >= 0; end = this.rest.indexOf(lineFeed)) {
      const begin = this.rest.subarray(0, end).lastIndexOf(colon)
      const frame = begin < 0 ? null : frameIn(this.rest.subarray(begin + 1, end))
      if (frame) frames.push(frame)
      noise += frame ? begin : end + 1
      this.rest = this.rest.subarray(end + 1)
    }
    if (this.rest.length > longest) {
      noise += this.rest.length
      this.rest = Buffer.alloc(0)
    }
    return { frames, problem: null, service: null, noise }
  }

  silence(): Cut {
    const noise = this.rest.length
    this.rest = Buffer.alloc(0)
    return { frames: [], problem: null, service: null, noise }
  }

  get waiting() {
    return this.rest.length
  }
}

const frameIn = (letters: Buffer): Frame | null => {
  const end = letters.at(-1) === carriageReturn ? letters.length - 1 : letters.length
  const text = letters.toString('latin1', 0, end)
  if (!/^(?:[0-9A-Fa-f]{2}){3,}$/.test(text)) return null
  const bytes = Buffer.from(text, 'hex')
  const body = bytes.subarray(0, -1)
  return lrc8(body) === bytes.at(-1) ? { transaction: 0, unit: body[0]!, pdu: body.subarray(1) } : null
}

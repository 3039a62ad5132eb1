import type { FrameRule } from '../wire/frames'
import { rtuLength } from './rtu'

const [colon, lineFeed] = [0x3a, 0x0a]
const isHexDigit = (byte: number) => (byte >= 0x30 && byte <= 0x39) || (byte >= 0x41 && byte <= 0x46)

/**
 * Frames of a serial line, for whoever looks: in letters from the colon to the line feed, else as long as their function says.
 * What we send are requests, what comes are replies.
 */
export const lineFrames: FrameRule = {
  head: 3,
  lengthOf: (bytes, out) => {
    if (bytes[0] === colon && isHexDigit(bytes[1]!)) {
      const end = bytes.indexOf(lineFeed)
      return end < 0 ? bytes.length + 1 : end + 1
    }
    return rtuLength(bytes, out)
  },
}

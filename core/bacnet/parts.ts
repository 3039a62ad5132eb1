import { encodeSegmentAck, type Segment } from './apdu'

/** More than this of one answer is none. */
const mostParts = 1000
/** Receipts after so many parts. */
const ourWindow = 16

/** Puts together an answer that comes in parts, and says what to send back for each (ANSI/ASHRAE 135, 5.4.4). */
export class Parts {
  private parts: Buffer[] = []
  private sinceReceipt = 0

  constructor(private invoke: number) {}

  /** @returns the whole answer with its last part, a receipt where one is due, `tooLong` where it has no end */
  take({ number, window, isLast }: Segment, content: Buffer): { whole: Buffer | null; receipt: Buffer | null; tooLong?: true } {
    const next = this.parts.length
    const granted = Math.min(Math.max(1, window), ourWindow)
    if (number !== (next & 0xff)) {
      // one that came before is only acknowledged again; a gap asks for what is missing
      const isOld = ((next - number) & 0xff) <= granted
      this.sinceReceipt = 0
      return { whole: null, receipt: encodeSegmentAck(this.invoke, (next - 1) & 0xff, granted, !isOld) }
    }
    if (next >= mostParts) return { whole: null, receipt: null, tooLong: true }
    this.parts.push(Buffer.from(content))
    this.sinceReceipt++
    const isDue = isLast || number === 0 || this.sinceReceipt >= granted
    if (isDue) this.sinceReceipt = 0
    return {
      whole: isLast ? Buffer.concat(this.parts) : null,
      receipt: isDue ? encodeSegmentAck(this.invoke, number, granted, false) : null,
    }
  }
}

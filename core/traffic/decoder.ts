import { FrameReader, TooShort } from './reader'
import type { FrameDecoder, Memory, Told } from './told'

/** Reads a frame and tells what it is. It may read past the end. */
export type Reading = (frame: FrameReader, fromClient: boolean, memory: Memory) => Told

export const piece = (summary: string, more: Partial<Told> = {}): Told => ({
  ...{ summary, role: 'piece', key: null, about: '', call: '', outcome: 'odd' },
  ...more,
})

/** Makes a decoder of a reading: what it did not come to is noted as it is, and one that ends too early says so. */
export const decoderOf =
  (reading: Reading): FrameDecoder =>
  (bytes, fromClient, memory = {}, { fields = true, isCut = false } = {}) => {
    const frame = new FrameReader(bytes, fields)
    let told: Told
    try {
      told = reading(frame, fromClient, memory)
    } catch (error) {
      if (!(error instanceof TooShort)) throw error
      const so = `after ${bytes.length} ${bytes.length === 1 ? 'byte' : 'bytes'}`
      told = isCut
        ? piece(`something long, kept no further than ${so}`, { outcome: 'fine' })
        : piece(`${frame.at > 0 ? 'a frame that ends' : 'ends'} ${so}, too early`)
    }
    if (frame.at < bytes.length) {
      const left = bytes.length - frame.at
      frame.at = bytes.length
      frame.note('rest', left, left === 1 ? '1 byte' : `${left} bytes`)
    }
    return { told, fields: frame.fields }
  }

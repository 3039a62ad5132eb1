import { AsciiCutter, encodeAscii } from './ascii'
import type { Cutter, Expected } from './frame'
import type { Framing } from './framings'
import { encodeFrame, FrameCutter } from './mbap'
import { encodeRtu, RtuCutter } from './rtu'

interface Frames {
  encode(transaction: number, unit: number, pdu: Buffer): Buffer
  cutter(expected: Expected): Cutter
}

const frames: Record<Framing, Frames> = {
  tcp: { encode: encodeFrame, cutter: () => new FrameCutter() },
  rtu: { encode: (_, unit, pdu) => encodeRtu(unit, pdu), cutter: (expected) => new RtuCutter(expected) },
  ascii: { encode: (_, unit, pdu) => encodeAscii(unit, pdu), cutter: () => new AsciiCutter() },
}

export const framesOf = (framing: Framing): Frames => frames[framing]

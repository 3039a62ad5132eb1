/** What a frame of any framing carries. Where a framing has no transactions, `transaction` is 0. */
export interface Frame {
  transaction: number
  unit: number
  pdu: Buffer
}

/**
 * What came out of a stream of bytes. `problem`: it cannot be Modbus, and has to be closed. `service`: what the peer seems to
 * be instead, where its first bytes tell. `noise`: bytes that belong to no frame.
 */
export interface Cut {
  frames: Frame[]
  problem: string | null
  service: string | null
  noise: number
}

/** Which side one listens to. */
export type Expected = 'request' | 'reply'

export interface Cutter {
  push(chunk: Buffer): Cut
  /** Nothing came for as long as ends a frame on a line. */
  silence(): Cut
  /** How many bytes of an unfinished frame are waiting. */
  readonly waiting: number
}

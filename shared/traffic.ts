/** One frame that passed, or a piece of bytes that is none. */
export interface TrafficFrame {
  /** Counts up; a gap means frames that were lost. */
  n: number
  /** Unix milliseconds. */
  at: number
  connection: number
  /** From here to the far side. */
  out: boolean
  /** Bytes on the wire, and the first of them as Base64. */
  length: number
  bytes: string
}

export interface TappedConnection {
  id: number
  /** The far side, as in 10.8.0.4:502. */
  peer: string
}

/** What passed since the last look. */
export interface TrafficPart {
  frames: TrafficFrame[]
  /** Where the next look begins. */
  next: number
  /** Frames between the last look and the first of these, which made room before they were taken. */
  lost: number
  connections: TappedConnection[]
}

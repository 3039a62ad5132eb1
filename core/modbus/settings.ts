import type { WordOrder } from './layout'
import type { Table } from './address'

/** How a point is laid out, where the standard leaves it open. */
export interface ModbusPointOptions {
  order?: WordOrder
  /** Bytes of a string. */
  length?: number
}

/** What a Modbus TCP link is set to. Times in milliseconds. Validated by `shared/links/modbusTcp`. */
export interface ModbusTcpSettings {
  host: string
  port: number
  /** The unit of addresses that name none. */
  unit: number
  /** The word order of tags that choose none. */
  order: WordOrder
  /** How often tags are read that choose no interval of their own. */
  interval: number
  patience: { connect: number; answer: number; retryFirst: number; retryMost: number }
  requests: { registers: number; bits: number; readAcross: number; inFlight: number; connections: number; pause: number }
  /** After so many silent requests in a row a unit leaves the round for a while. 0: never. */
  leaveOut: { after: number; for: number }
  writes: {
    keep: 'all' | 'latest'
    /** So long a write may wait; what was not sent by then is not sent at all. */
    within: number
    function: 'fitting' | 'multiple'
  }
  /** Ranges that no request may touch, both ends included. `unit` null: of every unit. */
  holes: { unit: number | null; table: Table; from: number; to: number }[]
  /** The address of the network interface to use; empty: as the system chooses. */
  localAddress: string
}

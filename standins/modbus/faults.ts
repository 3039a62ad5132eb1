/** Faults that a person or a test switches on, per unit. */
export const faultNames = ['silence', 'slow', 'exception', 'half-frame', 'wrong-transaction', 'drop'] as const
export type FaultName = (typeof faultNames)[number]

export const faultText: Record<FaultName, string> = {
  silence: 'does not answer',
  slow: 'answers slowly',
  exception: 'answers every request with an exception',
  'half-frame': 'sends half a reply and stops',
  'wrong-transaction': 'answers with a transaction id nobody used',
  drop: 'closes the connection at each request',
}

export interface FaultState {
  fault: FaultName | null
  /** Milliseconds for `slow`. */
  delay: number
  /** The code for `exception`. */
  code: number
}

export const noFault = (): FaultState => ({ fault: null, delay: 1500, code: 4 })
export const isFaultName = (name: unknown): name is FaultName => faultNames.includes(name as FaultName)

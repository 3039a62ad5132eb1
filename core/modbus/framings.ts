/** How requests and replies are framed. `tcp` has transactions, the two of serial lines have not. */
export const framings = ['tcp', 'rtu', 'ascii'] as const
export type Framing = (typeof framings)[number]

export const framingText: Record<Framing, string> = {
  tcp: 'Modbus TCP',
  rtu: 'RTU',
  ascii: 'ASCII',
}

/** How many connections may come in at the doors of one outlet, in all and from one address. */
export class Admission {
  private perAddress = new Map<string, number>()

  constructor(
    private limits: () => { connections: number; perAddress: number },
    private refused: (from: string, text: string) => void,
  ) {}

  /** Whether one more may come from there. @param ofDoor how many the door has already */
  admits(address: string | undefined, ofDoor: number): boolean {
    const { connections, perAddress } = this.limits()
    const from = plainAddress(address)
    if ((this.perAddress.get(from) ?? 0) > perAddress) {
      this.refused(from, `was not let in: ${perAddress} connections from one address are the most`)
      return false
    }
    if (ofDoor < connections) return true
    this.refused(from, `was not let in: all ${connections} connections of a door are taken`)
    return false
  }

  count(socket: { remoteAddress?: string; once(event: 'close', then: () => void): unknown }) {
    const from = plainAddress(socket.remoteAddress)
    const count = (by: number) => {
      const now = (this.perAddress.get(from) ?? 0) + by
      if (now > 0) this.perAddress.set(from, now)
      else this.perAddress.delete(from)
    }
    count(1)
    socket.once('close', () => count(-1))
  }
}

/** IPv4 may come as IPv6 has it. */
export const plainAddress = (address: string | undefined) => (address ?? 'somewhere').replace(/^::ffff:/, '')

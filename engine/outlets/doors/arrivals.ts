import { isOwnAddress } from '../../wire/interfaces'

const mostMachines = 1000

/** Connections to a door from other machines: a sign that nothing in between keeps them out. */
export class Arrivals {
  private machines = new Set<string>()
  private last: { from: string; at: number } | null = null

  note(address: string | undefined) {
    const from = address?.replace(/^::ffff:/, '')
    if (!from || isOwnAddress(from)) return
    if (this.machines.size < mostMachines) this.machines.add(from)
    this.last = { from, at: Date.now() }
  }

  status() {
    return { machines: this.machines.size, last: this.last }
  }
}

import type { Told } from './told'

/** Requests that wait beyond so many are taken for lost. */
const mostWaiting = 20_000

/** Which request an answer belongs to: what both call themselves, within a connection; of equal ones the oldest. */
export class Matching {
  private waiting = new Map<string, number[]>()
  private count = 0

  /** @returns the number of the request that this answers; null: it answers none */
  partnerOf(n: number, connection: number, { role, key }: Told): number | null {
    if (key === null || (role !== 'request' && role !== 'answer')) return null
    const name = `${connection} ${key}`
    const queue = this.waiting.get(name)
    if (role === 'answer') return queue ? this.taken(name, queue) : null
    if (queue) queue.push(n)
    else this.waiting.set(name, [n])
    if (++this.count > mostWaiting) this.forgetOldest()
    return null
  }

  private taken(name: string, queue: number[]): number {
    const request = queue.shift()!
    this.count--
    if (queue.length === 0) this.waiting.delete(name)
    return request
  }

  private forgetOldest() {
    const [name, queue] = this.waiting.entries().next().value!
    this.count -= queue.length
    this.waiting.delete(name)
  }
}

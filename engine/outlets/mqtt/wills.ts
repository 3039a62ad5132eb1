import type { AedesPacket } from 'aedes-packet'
import type { OrderedStore } from '../../disk/orderedStore'
import { storedWill, willText } from './brokerText'

/** What a client wanted to be sent should it go without a word, from an earlier life of the broker. */
export interface LeftWill {
  client: string
  /** As whom it came. */
  name: string
  packet: AedesPacket
}

/** Last wills on the engine's disk: clients that were connected when it ended without notice have gone without a word. */
export class Wills {
  private known = new Set<string>()

  constructor(private disk: OrderedStore) {}

  async put(client: string, name: string, packet: AedesPacket): Promise<void> {
    this.known.add(client)
    await this.disk.settled([{ type: 'put', key: keyOf(client), value: willText(name, packet) }])
  }

  async remove(client: string): Promise<void> {
    if (this.known.delete(client)) await this.disk.settled([{ type: 'del', key: keyOf(client) }])
  }

  /** Those of clients that have not come since. */
  async left(): Promise<LeftWill[]> {
    const found: LeftWill[] = []
    for await (const [key, text] of this.disk.entries('w/')) {
      const client = decodeURIComponent(key.slice(2))
      const will = storedWill(text)
      if (this.known.has(client)) continue
      this.known.add(client)
      if (will) found.push({ client, ...will })
      else await this.remove(client)
    }
    return found
  }
}

const keyOf = (client: string) => `w/${encodeURIComponent(client)}`

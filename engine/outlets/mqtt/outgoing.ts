import type { AedesPacket } from 'aedes-packet'

export interface Waiting {
  sequence: number
  packet: AedesPacket & { messageId?: number }
}

/** What waits for one client, or was sent to it and not yet confirmed, in order. */
export class Outgoing {
  private bySequence = new Map<number, Waiting>()
  private byId = new Map<number, Waiting>()
  private byOrigin = new Map<string, Waiting>()
  dropped = 0

  get size() {
    return this.bySequence.size
  }

  add(sequence: number, packet: Waiting['packet']): Waiting {
    const waiting = { sequence, packet }
    this.bySequence.set(sequence, waiting)
    this.byOrigin.set(originOf(packet), waiting)
    if (packet.messageId !== undefined) this.byId.set(packet.messageId, waiting)
    return waiting
  }

  /** The oldest gives way. */
  dropOldest(): Waiting | null {
    const [oldest] = this.bySequence.values()
    if (!oldest) return null
    this.forget(oldest)
    this.dropped++
    return oldest
  }

  /** It is on its way under a number of its own, or has come to its next step (MQTT 4.3.3); null: it is not there any more. */
  update(packet: Waiting['packet']): Waiting | null {
    const found = this.byOrigin.get(originOf(packet))
    if (found && packet.brokerId) {
      found.packet.messageId = packet.messageId
      if (packet.messageId !== undefined) this.byId.set(packet.messageId, found)
      return found
    }
    const sent = packet.messageId === undefined ? undefined : this.byId.get(packet.messageId)
    if (!sent) return null
    sent.packet = packet
    return sent
  }

  /** The client confirmed it. */
  confirmed(messageId: number | undefined): Waiting | null {
    const found = messageId === undefined ? undefined : this.byId.get(messageId)
    if (!found) return null
    this.forget(found)
    return found
  }

  all(): Waiting['packet'][] {
    return [...this.bySequence.values()].map(({ packet }) => packet)
  }

  private forget({ sequence, packet }: Waiting) {
    this.bySequence.delete(sequence)
    this.byOrigin.delete(originOf(packet))
    if (packet.messageId !== undefined && this.byId.get(packet.messageId)?.sequence === sequence) this.byId.delete(packet.messageId)
  }
}

const originOf = ({ brokerId, brokerCounter }: AedesPacket) => `${brokerId} ${brokerCounter}`

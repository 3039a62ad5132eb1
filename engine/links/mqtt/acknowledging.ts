import type { MqttClient } from 'mqtt'

/** What the package keeps for itself, and that is used here all the same; a test fails where it has moved. */
interface Insides {
  _sendPacket(packet: { cmd: string; messageId?: number }, done?: () => void, ...more: unknown[]): unknown
}

/** So many messages may be with us without an acknowledgement; the next waits until one of them has it. */
const mostHeld = 2000

/**
 * Tells the broker that a message has arrived only once it is kept here (PUBACK and PUBCOMP, MQTT 4.3), while the next ones
 * come in: a message that a crash takes from us is sent again.
 */
export class Acknowledging {
  private held = new Map<number, Promise<unknown>>()

  constructor(client: MqttClient) {
    const insides = client as unknown as Insides
    const send = insides._sendPacket.bind(client)
    insides._sendPacket = (packet, done, ...more) => {
      const waits = isLast(packet.cmd) && packet.messageId !== undefined ? this.held.get(packet.messageId) : undefined
      if (!waits) return send(packet, done, ...more)
      const sent = waits.then(() => {
        this.held.delete(packet.messageId!)
        if (client.connected) send(packet, () => {})
      })
      if (this.held.size < mostHeld) done?.()
      else void sent.then(() => done?.())
      return client
    }
  }

  /** What is to come about before the message with this number is acknowledged. */
  hold(messageId: number, waits: Promise<unknown>) {
    this.held.set(messageId, waits)
  }
}

const isLast = (cmd: string) => cmd === 'puback' || cmd === 'pubcomp'

import type { Client } from 'aedes'

/**
 * What the broker package does not offer and this program needs of it: a limit on the size of packets before they are read,
 * and delivery that no slow client holds up. Tests show where a version of it no longer has them.
 */
interface Inner {
  _parser: { packet: { length: number; cmd?: string }; _parseLength(): boolean }
  waitForDrain(done: (error: Error | null, client: unknown) => void): void
  deliverQoS(packet: { brokerId: string | null }, done: () => void): void
  _authorized: boolean
}

const drainWithinMs = 60_000

/** Ends the connection as soon as a packet says that it will be larger. @param tooLarge takes the number of bytes */
export const limitPackets = (client: Client, most: () => number, tooLarge: (bytes: number) => void) => {
  const parser = (client as unknown as Inner)._parser
  const parseLength = parser._parseLength.bind(parser)
  parser._parseLength = () => {
    const isKnown = parseLength()
    if (!isKnown || parser.packet.length <= most()) return isKnown
    tooLarge(parser.packet.length)
    client.conn.destroy()
    return false
  }
}

/**
 * What is sent as it comes waits for no client: how much may pile up for one is limited elsewhere. Only what was kept for
 * whoever listens later goes out at the client's own pace.
 */
export const deliverWithoutWaiting = (client: Client) => {
  const inner = client as unknown as Inner
  inner.waitForDrain = (done) => void setImmediate(done, null, client)
  const deliver = inner.deliverQoS
  inner.deliverQoS = (packet, done) => deliver(packet, packet.brokerId === null ? () => whenDrained(client, done) : done)
}

const whenDrained = ({ conn }: Client, done: () => void) => {
  if (!conn.writableNeedDrain) return done()
  const settle = () => {
    clearTimeout(timer)
    conn.off('drain', settle).off('close', settle)
    done()
  }
  const timer = setTimeout(() => conn.destroy(), drainWithinMs)
  timer.unref()
  conn.once('drain', settle).once('close', settle)
}

/**
 * All that a client gets in one turn leaves together. The package holds a stream back for each packet by itself, and lets go
 * of it before the next one comes.
 */
export const writeTogether = ({ conn }: Client) => {
  const [hold, letGo] = [conn.cork.bind(conn), conn.uncork.bind(conn)]
  let isHeld = false
  conn.cork = () => {
    if (isHeld) return
    isHeld = true
    hold()
    setImmediate(() => {
      isHeld = false
      letGo()
    })
  }
  conn.uncork = () => {}
}

/** Whether it was let in. */
export const isIn = (client: Client) => (client as unknown as Inner)._authorized

import { createSocket, type Socket } from 'node:dgram'
import { EventEmitter } from 'node:events'

/** Functions of the virtual link that a broadcast manager answers (ANSI/ASHRAE 135, J.2). */
const [result, registerForeign, distribute, unicast] = [0x00, 0x05, 0x09, 0x0a]
const refusesForeign = 0x30
const headBytes = 4
const usualPort = 47_808

export interface TransportOptions {
  host: string
  /** Hears what is broadcast there; empty: nothing. */
  broadcast: string
  /** Bytes of one message that the device takes. */
  room: number
}

/** What carries the messages of one device: a port of this machine, and what is broadcast to it. */
export class DeviceTransport extends EventEmitter {
  port = 0
  isSilent = false
  delayMs = 0
  /** Which datagrams are lost on the way out. */
  isLost: (datagram: Buffer) => boolean = () => false
  /** Others of its network, where it is the broadcast manager; null: it is none. */
  manages: (() => DeviceTransport[]) | null = null
  takesForeign = true
  received = 0
  private socket: Socket
  private ear: Socket | null = null

  constructor(private options: TransportOptions) {
    super()
    this.socket = createSocket({ type: 'udp4' })
    this.socket.on('message', (bytes, { address, port }) => this.receive(bytes, address, port))
  }

  /** Called by the package; the port is opened by {@link listen}. */
  open() {}

  async listen(port: number): Promise<number> {
    const { host, broadcast } = this.options
    await bind(this.socket, port, host)
    this.port = this.socket.address().port
    if (broadcast) {
      this.ear = createSocket({ type: 'udp4', reuseAddr: true })
      this.ear.on('message', (bytes, from) => this.receive(bytes, from.address, from.port))
      await bind(this.ear, this.port, broadcast)
    }
    return this.port
  }

  getBroadcastAddress() {
    return this.options.broadcast || this.options.host
  }

  /** Messages are this much longer with their heads. */
  getMaxPayload() {
    return this.options.room + 30
  }

  send(buffer: Buffer, length: number, receiver?: string) {
    const datagram = Buffer.from(buffer.subarray(0, length))
    if (this.isSilent || this.isLost(datagram)) return
    const [host, port] = (receiver ?? this.getBroadcastAddress()).split(':')
    const send = () => this.socket.send(datagram, Number(port ?? usualPort), host, () => {})
    if (this.delayMs > 0) setTimeout(send, this.delayMs)
    else send()
  }

  close() {
    this.socket.close()
    this.ear?.close()
  }

  /** As if it had come from there. */
  receive(bytes: Buffer, host: string, port: number) {
    if (this.isSilent) return
    this.received++
    if (this.manages && this.manage(bytes, host, port)) return
    // whom the package is told of without a port is at the usual one
    this.emit('message', bytes, `${host}:${port}`)
  }

  private manage(bytes: Buffer, host: string, port: number): boolean {
    if (bytes[1] === registerForeign) {
      const answer = Buffer.from([0x81, result, 0, 6, 0, this.takesForeign ? 0 : refusesForeign])
      this.send(answer, answer.length, `${host}:${port}`)
      return true
    }
    if (bytes[1] !== distribute) return false
    const forwarded = Buffer.from(bytes)
    forwarded[1] = unicast
    for (const other of this.manages!()) if (bytes.length > headBytes) other.emit('message', forwarded, `${host}:${port}`)
    return true
  }
}

const bind = (socket: Socket, port: number, host: string) =>
  new Promise<void>((resolve, fail) => {
    socket.once('error', fail)
    socket.bind(port, host, () => {
      socket.off('error', fail)
      socket.setBroadcast(true)
      resolve()
    })
  })

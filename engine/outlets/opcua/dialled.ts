import { hostname } from 'node:os'
import type { Socket } from 'node:net'
import type { OPCUAServerEndPoint, ServerSecureChannelLayer } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { defaultPort, endpointUrl, hostText } from '#core/opcua/endpointAddress'
import { counted } from '#core/text/counted'
import { Backoff } from '#pacing/backoff'
import type { DialledClient } from '#shared/outlets/opcuaServer'
import type { DialledStatus } from '#shared/outlets/opcuaServerStatus'
import { steadyNow } from '#pacing/clock'
import { startUnheard, stopUnheard } from '../../opcua/internals'
import type { Wire } from '../../wire/wire'
import type { Endpoints } from './endpoints'

interface Around {
  endpoints: Endpoints
  wire: Wire
  /** The application URI that our certificate names. */
  serverUri: string
  taken(client: string): void
  failed(why: Fault): void
}

/** A connection waits this long to be taken up; then it is made anew (OPC 10000-6, 7.1.3: at most two minutes). */
const patientMs = 110_000
const firstPauseMs = 500
const longestPauseMs = 30_000
/** Whoever has so many connections gets no further one. */
const mostTaken = 8

/**
 * One client that we dial because it cannot dial us. A connection waits there always, so that it has one whenever it wants;
 * from our first word on, which says who we are, it is a connection like those that come in at a door.
 */
class Dialled {
  private endpoint: OPCUAServerEndPoint
  private backoff = new Backoff(firstPauseMs, longestPauseMs)
  private channels = new Set<ServerSecureChannelLayer>()
  private waiting: Socket | null = null
  private timer: NodeJS.Timeout | null = null
  private fault: Fault | null = null
  private isClosed = false
  private readonly url: string

  constructor(
    readonly client: DialledClient,
    private around: Around,
  ) {
    const { host, port } = client
    // an address of its own for each, though nobody can dial it: by it the client says which of our entrances it means
    const address = { host: hostname(), port: defaultPort, path: `/for/${hostText(host)}:${port}` }
    this.url = endpointUrl(address)
    this.endpoint = around.endpoints.make(address, { host: '127.0.0.1', port: defaultPort }, client)
    if (!client.on) return
    startUnheard(this.endpoint)
    around.endpoints.add(this.endpoint)
    this.dial()
  }

  get name() {
    return `${hostText(this.client.host)}:${this.client.port}`
  }

  status(): DialledStatus {
    const { host, port, on } = this.client
    const { fault: why } = this
    const taken = this.channels.size
    const base = { host, port, taken, fault: taken > 0 ? null : why }
    if (!on) return { ...base, flow: 'off', sentence: 'not dialled' }
    if (taken > 0) return { ...base, flow: 'flowing', sentence: `${counted(taken, 'connection')} taken up` }
    if (why) return { ...base, flow: 'broken', sentence: why.what }
    return { ...base, flow: 'late', sentence: this.isThere ? 'Connected; the client has not taken it up yet' : 'Dialling' }
  }

  close() {
    this.isClosed = true
    if (this.timer) clearTimeout(this.timer)
    this.waiting?.destroy()
    if (!this.client.on) return
    this.around.endpoints.remove(this.endpoint)
    stopUnheard(this.endpoint)
  }

  private get isThere() {
    return this.waiting !== null && !this.waiting.connecting
  }

  private dial() {
    this.timer = null
    if (this.isClosed || this.waiting || this.channels.size >= mostTaken) return
    const { host, port } = this.client
    const began = steadyNow()
    const options = { serverUri: this.around.serverUri, endpointUrl: this.url, connectionTimeout: patientMs }
    const socket = this.endpoint.createReverseConnection(`opc.tcp://${hostText(host)}:${port}`, options, (error, channel) => {
      this.waiting = null
      if (this.isClosed) return channel?.close(() => {})
      if (channel) this.tookUp(channel)
      else this.notTaken(error ?? new Error('closed'), steadyNow() - began)
    })
    if (!socket) return
    this.waiting = socket
    // before its first word goes out
    socket.prependOnceListener('connect', () => {
      this.fault = null
      this.around.wire.attendOne(socket, `${socket.remoteAddress}:${socket.remotePort}`)
    })
  }

  private tookUp(channel: ServerSecureChannelLayer) {
    if (this.channels.size === 0) this.around.taken(this.name)
    this.fault = null
    // also one that ends soon was of use: whoever looks which ways in there are needs no longer
    this.backoff.reset()
    this.channels.add(channel)
    channel.once('abort', () => {
      this.channels.delete(channel)
      this.dialSoon()
    })
    this.dialSoon()
  }

  /** It could not be connected, or the client closed it before it said a word; or it waited for long, which is no fault. */
  private notTaken(error: Error & { code?: string }, afterMs: number) {
    if (afterMs >= patientMs) return this.dialSoon(0)
    if (this.channels.size === 0) this.failed(whyNot(error, this.client))
    this.dialSoon()
  }

  private failed(why: Fault) {
    if (this.fault?.code !== why.code) this.around.failed(why)
    this.fault = why
  }

  private dialSoon(ms = this.backoff.next()) {
    if (this.isClosed || this.timer) return
    this.timer = setTimeout(() => this.dial(), ms)
  }
}

const whyNot = (error: Error & { code?: string }, { host, port }: DialledClient): Fault =>
  error.code
    ? tcpFault(error, host, port)
    : fault('opcua.not-taken-up', { host, port }, 'connected, and closed from there after our Reverse Hello')

/** The clients that one server dials. */
export class DialledClients {
  private clients = new Map<string, Dialled>()

  constructor(private around: Around) {}

  /** Those that did not change stay connected. */
  apply(wanted: readonly DialledClient[]) {
    const keys = new Map(wanted.map((client) => [JSON.stringify(client), client]))
    for (const [key, one] of this.clients) if (!keys.has(key)) this.drop(key, one)
    // in the order of the settings
    const before = this.clients
    this.clients = new Map([...keys].map(([key, client]) => [key, before.get(key) ?? new Dialled(client, this.around)]))
  }

  status(): DialledStatus[] {
    return [...this.clients.values()].map((one) => one.status())
  }

  at(index: number): { client: DialledClient; status: DialledStatus } | null {
    const one = [...this.clients.values()][index]
    return one ? { client: one.client, status: one.status() } : null
  }

  close() {
    for (const [key, one] of this.clients) this.drop(key, one)
  }

  private drop(key: string, one: Dialled) {
    this.clients.delete(key)
    one.close()
  }
}

import type { ConnectionOptions } from 'node:tls'
import { WebSocket, type ClientOptions } from 'ws'
import { fault, type Fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import { Backoff } from '#pacing/backoff'
import { nodeWelcome, type NodeHello, type NodeSide, type SiteSide } from '#shared/nodeRpc'
import { firstWord } from '../nodes/firstWord'
import { Line } from '../nodes/line'
import type { NodeIdentity } from './identity'

interface Around {
  identity: NodeIdentity
  hello(): NodeHello
  /** What the site may call. */
  functions: NodeSide
  came(line: Line<SiteSide, NodeSide>): void
  left(why: string): void
  /** Not let in, or nobody there: told once for each reason. */
  failed(why: Fault): void
}

const handshakeMs = 10_000
/** Between two machines that may lead the site. */
const nextPlaceMs = 150
const mostFrame = 64 * 1024 * 1024
/** Somebody has to do something there before it can come in: it is not tried as often. */
const refusedPauseMs = 15_000

/** The connection of a node to its site: dialled again and again, as long as it runs. */
export class SiteLine {
  private line: Line<SiteSide, NodeSide> | null = null
  private socket: WebSocket | null = null
  private backoff = new Backoff(500, 6000)
  private timer: NodeJS.Timeout | null = null
  private closed = false
  /** Since when it is as it is. */
  since = Date.now()
  fault: Fault | null = null

  constructor(private around: Around) {}

  start() {
    this.dial()
  }

  get current() {
    return this.line
  }

  get isConnected() {
    return this.line !== null
  }

  /** The site’s functions. Rejects while it is away. */
  get site() {
    if (!this.line) throw new Error('the site is not connected')
    return this.line.rpc
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.line?.end('the node ends')
    this.socket?.terminate()
  }

  private get at() {
    const { place } = this.around.identity
    return place && `${hostText(place.host)}:${place.port}`
  }

  private dial() {
    this.timer = null
    const { identity } = this.around
    if (!this.at) return this.later(this.backoff.next())
    const tls: ConnectionOptions = {
      ...{ ca: identity.authority, cert: identity.certificate, key: identity.key, minVersion: 'TLSv1.3' },
      // whatever the address, the authority vouches for who answers
      checkServerIdentity: () => undefined,
    }
    const limits = { handshakeTimeout: handshakeMs, maxPayload: mostFrame, perMessageDeflate: false }
    const socket = new WebSocket(`wss://${this.at}/node`, { ...(tls as ClientOptions), ...limits })
    this.socket = socket
    socket.on('error', (error) => this.failed(socket, this.meaning(error)))
    socket.on('close', () => this.failed(socket, this.noAnswer('it closed the connection')))
    socket.on('open', () => void this.greet(socket))
  }

  private async greet(socket: WebSocket) {
    try {
      socket.send(JSON.stringify(this.around.hello()))
      const welcome = nodeWelcome.parse(await firstWord(socket))
      if (!welcome.ok) return this.failed(socket, welcome.fault as Fault)
      this.around.identity.called(welcome.name, welcome.site, welcome.doors)
      this.welcomed(socket)
    } catch (error) {
      this.failed(socket, this.noAnswer((error as Error).message))
    }
  }

  private welcomed(socket: WebSocket) {
    socket.removeAllListeners('error')
    socket.removeAllListeners('close')
    this.backoff.reset()
    this.fault = null
    this.since = Date.now()
    const line: Line<SiteSide, NodeSide> = new Line<SiteSide, NodeSide>({
      socket,
      functions: this.around.functions,
      events: ['told', 'found', 'followSet', 'takeOver', 'part'],
      ended: (why) => this.lost(line, why),
    })
    this.line = line
    this.around.came(line)
  }

  private lost(line: Line<SiteSide, NodeSide>, why: string) {
    if (this.line !== line) return
    this.line = null
    this.since = Date.now()
    this.around.left(why)
    this.later(this.backoff.next())
  }

  private failed(socket: WebSocket, why: Fault) {
    if (this.socket !== socket || this.line) return
    this.socket = null
    socket.removeAllListeners('close')
    socket.terminate()
    if (this.closed) return
    if (this.fault?.code !== why.code) this.around.failed(why)
    this.fault = why
    if (!this.around.identity.elsewhere()) return this.later(nextPlaceMs)
    this.later(why.code === 'node.no-answer' ? this.backoff.next() : refusedPauseMs * (0.5 + Math.random() / 2))
  }

  private later(ms: number) {
    if (!this.closed) this.timer ??= setTimeout(() => this.dial(), ms)
  }

  private meaning(error: Error & { code?: string }): Fault {
    const { code = '', message } = error
    const isOther = /CERT|SELF_SIGNED|UNABLE_TO_VERIFY|ISSUER/.test(code)
    return isOther ? fault('node.other-site', { at: this.at ?? '' }, `${code} ${message}`) : this.noAnswer(message, code)
  }

  private noAnswer(problem: string, evidence = ''): Fault {
    return fault('node.no-answer', { at: this.at ?? '', problem }, evidence)
  }
}

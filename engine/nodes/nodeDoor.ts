import { X509Certificate, type KeyObject } from 'node:crypto'
import { createServer, type Server } from 'node:https'
import type { IncomingMessage, ServerResponse } from 'node:http'
import type { Duplex } from 'node:stream'
import type { TLSSocket } from 'node:tls'
import { WebSocketServer, type WebSocket } from 'ws'
import { isFault, type Fault } from '#core/faults/catalogue'
import { Backoff } from '#pacing/backoff'
import type { SiteAuthority } from '#security/siteAuthority'
import type { NodeDoor as DoorPlace } from '#shared/nodes'
import { plainAddress } from '../outlets/doors/admission'
import { doorFault } from '../outlets/doors/place'
import { requireInterface } from '../wire/interfaces'

/** A machine whose key the authority vouches for. */
export interface Guest {
  key: KeyObject
  certificate: X509Certificate
  from: string
  /** What it comes for: as a node, or to speak for its web side with the engine that leads. */
  as: 'node' | 'web'
}

const ways: Readonly<Record<string, Guest['as']>> = { '/node': 'node', '/web': 'web' }

interface Around {
  authority: SiteAuthority
  /** Somebody asks to become a node. @returns the answer as JSON */
  joins(asked: unknown, from: string): Promise<unknown>
  /** A machine came whose key the authority vouches for. */
  came(socket: WebSocket, guest: Guest): void
  failed(why: Fault): void
}

const mostAsked = 16 * 1024
const mostFrame = 32 * 1024 * 1024
const mostConnections = 500
const patience = { headersTimeout: 10_000, requestTimeout: 20_000, maxHeaderSize: 16_384 }
/** A door shows a certificate of its own, made anew long before it ends. */
const renewEveryMs = 20 * 86_400_000

/** Where nodes come in: one port, TLS 1.3, the site’s own authority. */
export class NodeDoor {
  private place: DoorPlace | null = null
  private server: Server | null = null
  private sockets = new WebSocketServer({ noServer: true, maxPayload: mostFrame })
  private backoff = new Backoff(1000, 30_000)
  private retry: NodeJS.Timeout | null = null
  private renewal: NodeJS.Timeout | null = null
  private opening: Promise<void> = Promise.resolve()
  /** Why it is not open; null: it is, or is not to be. */
  fault: Fault | null = null

  constructor(private around: Around) {}

  get port(): number | null {
    const address = this.server?.address()
    return address && typeof address === 'object' ? address.port : null
  }

  /** Opens it there, and nowhere else; null: nowhere. */
  set(place: DoorPlace | null): Promise<void> {
    const before = this.place
    this.place = place
    if (this.server && before?.interface === place?.interface && before?.port === place?.port) return Promise.resolve()
    this.shut()
    return place ? this.open() : Promise.resolve()
  }

  close() {
    this.place = null
    this.shut()
  }

  private open(): Promise<void> {
    return (this.opening = this.opening.then(() => this.tryToOpen()))
  }

  private async tryToOpen() {
    const { place } = this
    if (!place || this.server) return
    try {
      requireInterface(place)
      const server = await this.listening(place)
      this.server = server
      // it was moved or closed while it opened
      if (this.place?.interface !== place.interface || this.place.port !== place.port) return this.shut()
      this.fault = null
      this.backoff.reset()
    } catch (error) {
      const why = isFault(error) ? error : doorFault(place, error as Error & { code?: string })
      if (this.fault?.what !== why.what) this.around.failed(why)
      this.fault = why
      this.retry = setTimeout(() => void this.open(), this.backoff.next())
    }
  }

  private shut() {
    if (this.retry) clearTimeout(this.retry)
    if (this.renewal) clearInterval(this.renewal)
    this.fault = null
    this.server?.close()
    this.server?.closeAllConnections()
    for (const socket of this.sockets.clients) socket.terminate()
    this.server = null
  }

  private async listening(place: DoorPlace): Promise<Server> {
    const { authority } = this.around
    const secrets = async () => {
      const { certificate, key } = await authority.door()
      return { cert: `${certificate}\n${authority.pem}`, key, ca: authority.pem }
    }
    const tls = { requestCert: true, rejectUnauthorized: false, minVersion: 'TLSv1.3' as const }
    const server = createServer({ ...(await secrets()), ...tls, ...patience }, (request, response) => void this.asked(request, response))
    server.maxConnections = mostConnections
    server.on('upgrade', (request: IncomingMessage, stream: Duplex, head: Buffer) => this.upgraded(request, stream, head))
    server.on('tlsClientError', (_error, socket) => socket.destroy())
    server.on('clientError', (_error, socket) => socket.destroy())
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(place.port, place.interface, () => {
        server.off('error', reject)
        resolve()
      })
    })
    server.on('error', () => {})
    this.renewal = setInterval(
      () =>
        void secrets().then(
          (made) => server.setSecureContext({ ...made, minVersion: 'TLSv1.3' }),
          () => {},
        ),
      renewEveryMs,
    )
    this.renewal.unref()
    return server
  }

  private async asked(request: IncomingMessage, response: ServerResponse) {
    const answer = (status: number, body: unknown) => {
      response.writeHead(status, { 'content-type': 'application/json', connection: 'close' }).end(JSON.stringify(body))
    }
    try {
      if (request.method !== 'POST' || request.url !== '/join') return answer(404, { ok: false })
      answer(200, await this.around.joins(await bodyOf(request), plainAddress(request.socket.remoteAddress)))
    } catch {
      answer(400, { ok: false })
    }
  }

  private upgraded(request: IncomingMessage, stream: Duplex, head: Buffer) {
    const socket = request.socket as TLSSocket
    const shown = socket.getPeerX509Certificate()
    stream.on('error', () => stream.destroy())
    const as = ways[request.url ?? '']
    if (!as || !socket.authorized || !shown) {
      stream.end('HTTP/1.1 401 Unauthorized\r\nconnection: close\r\ncontent-length: 0\r\n\r\n')
      return
    }
    const certificate = new X509Certificate(shown.raw)
    const from = plainAddress(socket.remoteAddress)
    this.sockets.handleUpgrade(request, stream, head, (opened) => {
      opened.on('error', () => opened.terminate())
      this.around.came(opened, { key: certificate.publicKey, certificate, from, as })
    })
  }
}

const bodyOf = async (request: IncomingMessage): Promise<unknown> => {
  const parts: Buffer[] = []
  let size = 0
  for await (const part of request) {
    size += (part as Buffer).length
    if (size > mostAsked) throw new Error('too long')
    parts.push(part as Buffer)
  }
  return JSON.parse(Buffer.concat(parts).toString())
}

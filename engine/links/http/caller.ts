import type { Socket } from 'node:net'
import { Pool, type Dispatcher } from 'undici'
import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import type { Request } from '#core/http/operation'
import type { HttpSettings } from '#core/http/settings'
import { isPassingStatus, retryAfterMs, statusText } from '#core/http/status'
import { duration } from '#core/text/duration'
import { tlsEnding } from '../../wire/tlsOver'
import type { Wire } from '../../wire/wire'
import { dialApi, type Line } from './dial'
import type { Access } from './access'

/** What a web API said to a call. */
export interface Answer {
  status: number
  body: Uint8Array
  /** The mark of this answer, by which it can be asked whether there is another one (RFC 9110, 8.8.3). */
  etag: string | null
  type: string
  headers: Dispatcher.ResponseData['headers']
  at: number
  ms: number
}

/** Why a call came to nothing. */
export class CallFailure extends Error {
  constructor(
    readonly why: Fault,
    readonly status: number | null,
    /** How long it wants to be left alone, ms. */
    readonly after: number | null = null,
  ) {
    super(why.what)
  }
}

/** What nobody thought of is a fault of ours, and ends nothing. */
export const failureOf = (error: unknown): CallFailure =>
  error instanceof CallFailure ? error : new CallFailure(fault('ours.unexpected', { problem: (error as Error).message }), null)

const mostRedirects = 3

/** Calls to one web API, over connections that are kept. */
export class Caller {
  private pool: Pool
  private origin: URL
  /** Of the far side, SHA-1; null: it showed none yet. */
  certificate: string | null = null
  /** The newest connection: the pool tells only that one ended. */
  private last: Socket | null = null

  constructor(
    private settings: HttpSettings,
    private access: Access,
    private wire: Wire,
  ) {
    this.origin = new URL(settings.base)
    const { answer } = settings.patience
    this.pool = new Pool(this.origin.origin, {
      connections: settings.atOnce,
      headersTimeout: answer,
      bodyTimeout: answer,
      keepAliveTimeout: 10_000,
      connect: (_options, done) => {
        this.connect().then(
          ({ socket }) => done(null, socket),
          (why: Fault) => done(Object.assign(new Error(why.what), { fault: why }), null),
        )
      },
    })
  }

  /** A connection to there, as calls have them. Rejects with a fault. */
  async connect(signal?: AbortSignal): Promise<Line> {
    const shown = (certificate: string) => (this.certificate = certificate)
    const line = await dialApi(this.settings, { ...this.access, wire: this.wire, shown }, signal)
    this.last = line.socket
    return line
  }

  /** Rejects with a `CallFailure`. @param etag what is known already: where it still holds, the status is 304 */
  async call(request: Request, how: { etag?: string | null; signal?: AbortSignal } = {}): Promise<Answer> {
    const answer = await this.ask(request, how)
    const refusal = this.refusalOf(answer)
    if (refusal) throw refusal
    return answer
  }

  /** Whatever it says is an answer; rejects with a `CallFailure` where it says nothing. */
  async ask(request: Request, { etag = null, signal }: { etag?: string | null; signal?: AbortSignal } = {}): Promise<Answer> {
    const began = performance.now()
    try {
      const response = await this.follow(request, etag, signal)
      const body = response.statusCode === 304 ? new Uint8Array() : await this.read(response)
      return this.answerOf(response, body, performance.now() - began)
    } catch (error) {
      throw error instanceof CallFailure ? error : new CallFailure(this.faultOf(error as Error & { code?: string }), null)
    }
  }

  /** Calls under way come to their end; others go elsewhere. */
  async retire() {
    await this.pool.close().catch(() => {})
  }

  async close() {
    await this.pool.destroy().catch(() => {})
  }

  private get place() {
    return `${this.origin.host}`
  }

  private async follow(request: Request, etag: string | null, signal?: AbortSignal): Promise<Dispatcher.ResponseData> {
    let target = this.origin.pathname.replace(/\/+$/, '') + request.target || '/'
    let isRenewed = false
    for (let count = 0; ; count++) {
      const response = await this.pool.request({
        ...{
          method: request.method,
          path: this.access.signIn.target(target),
          headers: await this.headersOf(request, etag),
          body: request.body,
        },
        ...(signal ? { signal } : {}),
      })
      const location = response.headers.location
      // a token may have been taken back before its time
      if (response.statusCode === 401 && !isRenewed && this.access.signIn.renew()) {
        isRenewed = true
        await response.body.dump()
        continue
      }
      const isSent = response.statusCode >= 300 && response.statusCode < 400 && response.statusCode !== 304 && typeof location === 'string'
      if (!isSent) return response
      await response.body.dump()
      target = this.ownTarget(location, target)
      // what would change something is sent nowhere that nobody entered
      if (count >= mostRedirects || request.method !== 'GET') throw this.refusedWith(response.statusCode)
    }
  }

  /** Nothing of ours goes to another host. */
  private ownTarget(location: string, from: string): string {
    const to = new URL(location, this.origin.origin + from)
    if (to.origin !== this.origin.origin) throw new CallFailure(fault('http.elsewhere', { place: this.place, to: to.origin }), null)
    return to.pathname + to.search
  }

  private async headersOf({ headers }: Request, etag: string | null): Promise<Record<string, string>> {
    const own = Object.fromEntries(this.settings.headers.map(({ name, value }) => [name.toLowerCase(), value]))
    const given = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]))
    return {
      ...{ accept: 'application/json, */*;q=0.5', 'user-agent': 'keen-conduit' },
      ...own,
      ...given,
      ...(await this.access.signIn.headers()),
      ...(etag === null ? {} : { 'if-none-match': etag }),
    }
  }

  private async read({ body, headers }: Dispatcher.ResponseData): Promise<Uint8Array> {
    const most = this.settings.largest * 1024 * 1024
    const tooLarge = () => new CallFailure(fault('http.too-large', { place: this.place, most: this.settings.largest }), null)
    body.on('error', () => {})
    if (Number(headers['content-length'] ?? 0) > most) {
      body.destroy()
      throw tooLarge()
    }
    const chunks: Buffer[] = []
    let length = 0
    for await (const chunk of body as AsyncIterable<Buffer>) {
      length += chunk.length
      if (length > most) {
        body.destroy()
        throw tooLarge()
      }
      chunks.push(chunk)
    }
    return Buffer.concat(chunks)
  }

  private answerOf({ statusCode: status, headers }: Dispatcher.ResponseData, body: Uint8Array, ms: number): Answer {
    const { etag, 'content-type': type } = headers
    return {
      status,
      body,
      etag: typeof etag === 'string' ? etag : null,
      type: typeof type === 'string' ? type : '',
      headers,
      at: Date.now(),
      ms,
    }
  }

  /** Null: it gave what it was asked for. */
  refusalOf({ status, headers }: Answer): CallFailure | null {
    if (status < 400) return null
    if (!isPassingStatus(status)) return this.refusedWith(status)
    const facts = { place: this.place, status, words: statusText(status) }
    const asked = headers['retry-after']
    const after = retryAfterMs(typeof asked === 'string' ? asked : null, Date.now())
    const words = after === null ? 'by itself' : `in ${duration(after)}, as it wishes`
    return new CallFailure(fault('http.busy', { ...facts, after: words }, `HTTP ${status}`), status, after)
  }

  private refusedWith(status: number): CallFailure {
    return new CallFailure(fault('http.refused', { place: this.place, status, words: statusText(status) }, `HTTP ${status}`), status)
  }

  private faultOf(error: Error & { code?: string; fault?: unknown }): Fault {
    const known = isFault(error) ? error : error.fault
    if (isFault(known)) return known
    const { host, port } = placeOfBase(this.settings.base)
    if (error.code === 'UND_ERR_HEADERS_TIMEOUT' || error.code === 'UND_ERR_BODY_TIMEOUT' || error.name === 'TimeoutError')
      return fault('http.silent', { place: this.place, ms: this.settings.patience.answer })
    if (error.name === 'HTTPParserError') return fault('http.not-http', { host, port, problem: error.message }, error.message)
    const ended = this.last && tlsEnding(this.last)
    return fault('http.broken', { place: this.place, problem: ended ?? error.message }, ended ?? error.code ?? error.message)
  }
}

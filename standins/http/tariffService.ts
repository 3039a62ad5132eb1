import { createHash } from 'node:crypto'
import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from 'node:http'
import { createServer as createSecure, type Server as SecureServer } from 'node:https'
import { pairFor, type Pair } from '../pair'
import { tariffDocument } from './tariffDocument'

/** Faults that a person or a test switches on at the tariff service. */
export const tariffFaultText = {
  busy: 'answers 429 and asks to come back after 5 s',
  away: 'answers 503 and asks to come back after 10 s',
  slow: 'answers after 8 s',
  silence: 'takes calls and answers none',
  'other form': 'prices are called otherwise than the document says',
  'cut off': 'answers end in the middle',
  'wrong key': 'no key is let in',
  'expired certificate': 'shows a certificate over TLS that ended yesterday',
} as const
export type TariffFault = keyof typeof tariffFaultText
export const isTariffFault = (name: unknown): name is TariffFault => typeof name === 'string' && Object.hasOwn(tariffFaultText, name)

export const tariffKey = 'harrow-sound'
const quarterMs = 900_000
const quartersOfDay = 96
const dayMs = quarterMs * quartersOfDay
const mostBody = 64 * 1024
const mostKept = 1000
const slowMs = 8000
const zones: Record<string, number> = { north: 62, south: 71 }

interface Asked {
  method: string
  path: string
  query: URLSearchParams
  request: IncomingMessage
  response: ServerResponse
}

/** Prices by quarter hour, the state of the grid, and a place where calls of ships are handed in; a web API with a key. */
export class TariffService {
  private server: Server
  private secured: SecureServer | null = null
  private pairs: { sound: Pair; expired: Pair } | null = null
  private calls: { key: string; call: Record<string, unknown> }[] = []
  private seen = 0
  readonly faults = new Set<TariffFault>()

  constructor() {
    this.server = createServer(this.listener)
  }

  private listener: RequestListener = (request, response) => {
    this.seen++
    this.answer(request, response).catch((error: Error) => refuse(response, 400, error.message))
  }

  listen(port: number): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(port, '127.0.0.1', () => resolve((this.server.address() as { port: number }).port))
    })
  }

  /** The same over TLS, with a certificate of its own, which is its own authority. */
  async listenSecured(port: number): Promise<{ port: number; authority: string }> {
    const [sound, expired] = await Promise.all([pairFrom(1), pairFrom(400)])
    this.pairs = { sound, expired }
    const server = (this.secured = createSecure(this.pair(), this.listener))
    await new Promise<void>((resolve, reject) => server.once('error', reject).listen(port, '127.0.0.1', resolve))
    return { port: (server.address() as { port: number }).port, authority: sound.cert }
  }

  get requests() {
    return this.seen
  }

  /** What was handed in, the newest first. */
  get handedIn() {
    return this.calls.map(({ call }) => call)
  }

  setFault(fault: TariffFault, on: boolean) {
    if (on) this.faults.add(fault)
    else this.faults.delete(fault)
    if (fault === 'expired certificate' && this.secured) this.secured.setSecureContext(this.pair())
  }

  async close() {
    for (const server of [this.server, this.secured]) {
      server?.closeAllConnections()
      await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()))
    }
  }

  private pair(): Pair {
    return this.faults.has('expired certificate') ? this.pairs!.expired : this.pairs!.sound
  }

  private async answer(request: IncomingMessage, response: ServerResponse) {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://tariffs')
    if (this.faults.has('silence')) return
    if (this.faults.has('slow')) await new Promise((resolve) => setTimeout(resolve, slowMs).unref())
    if (pathname === '/openapi.json') return json(response, 200, tariffDocument(`http://${request.headers.host ?? 'localhost'}`))
    const why = this.whyNot(request)
    if (why) return refuse(response, why.status, why.title, why.after)
    await this.route({ method: request.method ?? 'GET', path: pathname, query: searchParams, request, response })
  }

  private whyNot({ headers }: IncomingMessage): { status: number; title: string; after?: number } | null {
    if (this.faults.has('wrong key') || headers['x-api-key'] !== tariffKey) return { status: 401, title: 'The key is not known.' }
    if (this.faults.has('busy')) return { status: 429, title: 'Too many calls.', after: 5 }
    return this.faults.has('away') ? { status: 503, title: 'Being looked after.', after: 10 } : null
  }

  private route(asked: Asked): void | Promise<void> {
    const { method, path, query, request, response } = asked
    const zone = /^\/v1\/tariffs\/([^/]+)$/.exec(path)?.[1]
    if (method === 'GET' && zone !== undefined) return this.tariff(asked, decodeURIComponent(zone), query.get('day'))
    if (method === 'GET' && path === '/v1/grid') return this.say(request, response, gridNow())
    if (method === 'GET' && path === '/v1/calls') return this.say(request, response, this.handedIn)
    if (method === 'POST' && path === '/v1/calls') return this.take(asked)
    refuse(response, 404, `There is nothing at ${path}.`)
  }

  private tariff({ request, response }: Asked, zone: string, day: string | null) {
    const base = zones[zone]
    if (base === undefined) return refuse(response, 404, `There is no zone ${zone}.`)
    const start = day === null ? Math.floor(Date.now() / dayMs) * dayMs : Date.parse(`${day}T00:00:00Z`)
    if (Number.isNaN(start)) return refuse(response, 400, `“${day}” is no day.`)
    const quarters = Array.from({ length: quartersOfDay }, (_, i) => this.quarter(base, start + i * quarterMs))
    const now = this.quarter(base, Math.floor(Date.now() / quarterMs) * quarterMs)
    this.say(request, response, { zone, day: new Date(start).toISOString().slice(0, 10), currency: 'EUR', now, quarters })
  }

  /** Dear in the morning and in the evening, cheap at night. */
  private quarter(base: number, at: number) {
    const hour = (at % dayMs) / 3_600_000
    const price = Math.round((base + 24 * Math.sin(((hour - 5) / 12) * Math.PI) + 9 * Math.sin((hour / 3) * Math.PI)) * 100) / 100
    const span = { from: new Date(at).toISOString(), to: new Date(at + quarterMs).toISOString() }
    return this.faults.has('other form') ? { ...span, eur_mwh: price } : { ...span, price }
  }

  private async take({ request, response }: Asked) {
    const call = await bodyOf(request)
    if (typeof call.berth !== 'string' || typeof call.kwh !== 'number') return refuse(response, 422, 'A call has a berth and kwh.')
    const key = String(request.headers['idempotency-key'] ?? '')
    if (key !== '' && this.calls.some((one) => one.key === key)) return json(response, 200, { taken: 'before' })
    this.calls = [{ key, call: { ...call, at: new Date().toISOString() } }, ...this.calls].slice(0, mostKept)
    json(response, 201, { taken: 'now' })
  }

  /** With a mark of what it says, so that it is not sent twice (RFC 9110, 8.8.3). */
  private say({ headers }: IncomingMessage, response: ServerResponse, value: unknown) {
    const text = JSON.stringify(value)
    const etag = `"${createHash('sha256').update(text).digest('base64url').slice(0, 16)}"`
    if (headers['if-none-match'] === etag && !this.faults.has('cut off')) return void response.writeHead(304, { etag }).end()
    const whole = { 'content-type': 'application/json', 'content-length': Buffer.byteLength(text), etag }
    response.writeHead(200, whole)
    if (!this.faults.has('cut off')) return void response.end(text)
    response.write(text.slice(0, text.length >> 1), () => response.destroy())
  }
}

const validDays = 399
/** A certificate that began so many days ago. */
const pairFrom = async (days: number): Promise<Pair> => {
  const from = new Date(Date.now() - days * dayMs)
  return pairFor('tariffs', { from, days: validDays })
}

const gridNow = () => {
  const at = Math.floor(Date.now() / 1000) * 1000
  const slow = Math.sin(at / 37_000)
  return {
    at: new Date(at).toISOString(),
    frequency_hz: Math.round((50 + 0.03 * slow) * 1000) / 1000,
    load_mw: Math.round((812 + 64 * Math.sin(at / 240_000)) * 10) / 10,
    co2_g_per_kwh: Math.round(96 + 40 * slow),
  }
}

const bodyOf = async (request: IncomingMessage): Promise<Record<string, unknown>> => {
  let text = ''
  for await (const chunk of request) {
    text += String(chunk)
    if (text.length > mostBody) throw new Error('the body is too long')
  }
  return JSON.parse(text || '{}') as Record<string, unknown>
}

const json = (response: ServerResponse, status: number, value: unknown) => {
  response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))
}

/** As RFC 9457 says it. */
const refuse = (response: ServerResponse, status: number, title: string, after?: number) => {
  const head = { 'content-type': 'application/problem+json', ...(after === undefined ? {} : { 'retry-after': String(after) }) }
  response.writeHead(status, head).end(JSON.stringify({ title, status }))
}

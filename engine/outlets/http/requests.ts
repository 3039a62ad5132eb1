import type { IncomingMessage, ServerResponse } from 'node:http'
import { isIP, type Socket } from 'node:net'
import { hostname } from 'node:os'
import findMyWay, { type HTTPMethod, type HTTPVersion, type Instance } from 'find-my-way'
import type { CallBook } from '#core/calls/callBook'
import { fault } from '#core/faults/catalogue'
import { methods } from '#core/http/operation'
import { isOpenToOthers } from '#shared/outlets/doors'
import type { HttpDoor, HttpServerSettings } from '#shared/outlets/httpServer'
import { plainAddress } from '../doors/admission'
import { noteCall } from './calls'
import type { Answered, Handler } from './asked'
import type { HttpGuest, HttpGuests } from './guests'
import type { Programs } from './programs'
import { problem, type Reply } from './reply'

export interface RouteEntry {
  method: string
  /** As find-my-way has it: /tags/*, /berths/:berth. */
  path: string
  handler: Handler
  /** Takes what each request to it came to. */
  noted?(status: number, ms: number): void
}

interface Ways {
  guests: HttpGuests
  programs: Programs
  calls: CallBook
  settings(): Pick<HttpServerSettings, 'limits' | 'origins'>
  refused(program: string, text: string): void
}

type Routed = Pick<RouteEntry, 'handler' | 'noted' | 'path'>

const noQuery = new URLSearchParams()

/** Every request on its way: who it is, whether it may be, what answers it, and what came of it. */
export class Requests {
  private router: Instance<HTTPVersion.V1>
  underWay = 0
  count = 0

  constructor(private ways: Ways) {
    this.router = routerOf([])
  }

  /** What is to be had from now on. */
  take(routes: readonly RouteEntry[]) {
    this.router = routerOf(routes)
  }

  /** Never throws. */
  handle(request: IncomingMessage, response: ServerResponse, door: HttpDoor) {
    this.count++
    const leave = this.enter()
    response.once('close', leave)
    try {
      const who = this.guestOf(request, door)
      if (who instanceof Promise)
        void who.then((guest) => this.go(request, response, door, guest, leave)).catch((error: Error) => failed(response, error))
      else this.go(request, response, door, who, leave)
    } catch (error) {
      failed(response, error as Error)
    }
  }

  /** Takes a place among the requests at once; returns how to give it back. */
  private enter(): () => void {
    this.underWay++
    let isIn = true
    return () => {
      if (isIn) this.underWay--
      isIn = false
    }
  }

  /** Null: nobody whom the door lets in. */
  private guestOf({ headers, socket }: IncomingMessage, { anonymous, names }: HttpDoor): HttpGuest | null | Promise<HttpGuest | null> {
    const { authorization } = headers
    if (names && authorization !== undefined) return this.ways.guests.shown(authorization, plainAddress(socket.remoteAddress))
    return anonymous ? this.ways.guests.nobody : null
  }

  private go(request: IncomingMessage, response: ServerResponse, door: HttpDoor, guest: HttpGuest | null, leave: () => void) {
    const began = performance.now()
    const { limits } = this.ways.settings()
    const url = request.url ?? '/'
    const at = url.indexOf('?')
    const raw = at < 0 ? url : url.slice(0, at)
    const method = request.method === 'HEAD' ? 'GET' : (request.method ?? 'GET')
    const from = plainAddress(request.socket.remoteAddress)
    this.allowOrigin(request, response)
    if (request.method === 'OPTIONS' && request.headers.origin !== undefined)
      return send(request, response, { status: 204, body: '', type: 'text/plain' })
    const { id, wait, source } = this.ways.programs.come(
      { name: guest?.name ?? 'nobody', from, agent: request.headers['user-agent'] },
      request.socket as Socket,
      door.tls,
    )
    const asked = `${request.method} ${raw.slice(0, 200)}`
    const ended = (answered: Answered, routed?: Routed) => {
      if (answered) send(request, response, answered)
      // who follows changes stays, and takes no place of those who ask
      else leave()
      const status = answered?.status ?? 200
      const refusal = status >= 400 && answered ? `${asked}: ${detailOf(answered)}` : null
      const ms = performance.now() - began
      this.ways.programs.note(id, asked, { status, ms }, refusal)
      routed?.noted?.(status, ms)
      noteCall(this.ways.calls, { source, request, route: routed?.path ?? null, answered, ms }, refusal)
      if (refusal !== null) this.ways.refused(id, refusal)
    }
    if (this.isForeignPage(request, door))
      return ended(problem(fault('serve.not-allowed', { who: 'A page of another origin', what: `ask ${asked}` })))
    if (!guest) return ended(this.notLetIn(request, door))
    if (wait > 0) return ended(tooOften(guest.name, limits.perMinute, wait))
    if (this.underWay > limits.atOnce)
      return ended(problem(fault('serve.busy', { most: limits.atOnce }), { headers: { 'retry-after': '1' } }))
    const found = this.router.find(method as HTTPMethod, raw)
    if (!found) return ended(this.notThere(method, raw))
    const routed = found.store as Routed
    const query = at < 0 ? noQuery : new URLSearchParams(url.slice(at + 1))
    const answered = guarded(() => routed.handler({ request, response, method, path: raw, query, guest, from, program: id }, found.params))
    if (answered instanceof Promise) void answered.catch(unforeseen).then((reply) => ended(reply, routed))
    else ended(answered, routed)
  }

  private notLetIn({ headers }: IncomingMessage, { names }: HttpDoor): Reply {
    const text =
      headers.authorization === undefined
        ? 'this door asks for a name'
        : names
          ? 'name or token is another one'
          : 'this door takes no names'
    const challenge = names ? { headers: { 'www-authenticate': 'Bearer, Basic realm="Keen Conduit", charset="UTF-8"' } } : {}
    return problem(fault('serve.sign-in', { problem: text }), challenge)
  }

  private notThere(method: string, path: string): Reply {
    const allowed = methods.filter((other) => other !== method && this.router.find(other, path) !== null)
    if (allowed.length === 0) return problem(fault('serve.unknown-path', { method, path: path.slice(0, 200) }))
    return problem(fault('serve.method', { method, path: path.slice(0, 200), allowed: allowed.join(', ') }), {
      headers: { allow: allowed.join(', ') },
    })
  }

  /**
   * A browser asks for whatever page is open in it: what changes something only for pages from here or of origins that are named, and at a
   * door for this machine alone only under a name of this machine, so that no page can pretend to be from here.
   */
  private isForeignPage({ headers, method }: IncomingMessage, door: HttpDoor): boolean {
    const { origin, host = '' } = headers
    if (origin !== undefined && method !== 'GET' && !this.ways.settings().origins.includes(origin) && !origin.endsWith(`//${host}`))
      return true
    return !isOpenToOthers(door) && !isNameOfThisMachine(host, door)
  }

  /** Pages of origins that are named may ask from a browser (CORS, WHATWG Fetch 3.2). */
  private allowOrigin({ headers }: IncomingMessage, response: ServerResponse) {
    const { origin } = headers
    if (origin === undefined || !this.ways.settings().origins.includes(origin)) return
    response.setHeader('access-control-allow-origin', origin)
    response.setHeader('vary', 'origin')
    response.setHeader('access-control-allow-methods', methods.join(', '))
    response.setHeader('access-control-allow-headers', 'authorization, content-type')
  }
}

const isNameOfThisMachine = (host: string, { giveOut }: HttpDoor): boolean => {
  const name = host
    .replace(/:\d+$/, '')
    .replace(/^\[|\]$/g, '')
    .toLowerCase()
  return isIP(name) > 0 || ['', 'localhost', hostname().toLowerCase(), giveOut.toLowerCase()].includes(name)
}

const routerOf = (routes: readonly RouteEntry[]): Instance<HTTPVersion.V1> => {
  const router = findMyWay({ maxParamLength: 500, ignoreDuplicateSlashes: false, caseSensitive: true })
  for (const { method, path, handler, noted } of routes) {
    const store: Routed = { handler, path, ...(noted ? { noted } : {}) }
    router.on(method as HTTPMethod, path, () => {}, store)
  }
  return router
}

const guarded = (work: () => Answered | Promise<Answered>): Answered | Promise<Answered> => {
  try {
    return work()
  } catch (error) {
    return unforeseen(error as Error)
  }
}

const unforeseen = (error: Error): Reply => problem(fault('ours.unexpected', { problem: error.message }))

const failed = (response: ServerResponse, error: Error) => {
  const { status, body, type } = unforeseen(error)
  if (!response.headersSent) response.writeHead(status, { 'content-type': type }).end(body)
}

const tooOften = (who: string, most: number, seconds: number) =>
  problem(fault('serve.too-often', { who, most, seconds }), { headers: { 'retry-after': String(seconds) } })

const detailOf = ({ body, status }: Reply): string => {
  try {
    return (JSON.parse(String(body)) as { detail?: string }).detail ?? `status ${status}`
  } catch {
    return `status ${status}`
  }
}

const send = (request: IncomingMessage, response: ServerResponse, { status, body, type, headers }: Reply) => {
  if (response.headersSent || response.destroyed) return
  const hasBody = status !== 204 && status !== 304
  response.writeHead(status, {
    ...(hasBody ? { 'content-type': type, 'content-length': Buffer.byteLength(body) } : {}),
    'cache-control': 'no-store',
    ...headers,
    // what is left of a body that nobody wants would be taken for the next request
    ...(status >= 400 && !request.complete ? { connection: 'close' } : {}),
  })
  response.end(hasBody && request.method !== 'HEAD' ? body : undefined)
}

import { describeOutlet } from '#core/endpoints/document'
import type { Endpoint } from '#core/endpoints/settings'
import { fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import { lesser, rights, type Right } from '#core/outlets/rules'
import { counted } from '#core/text/counted'
import { httpSchemeOf, type HttpDoor, type HttpServerSettings } from '#shared/outlets/httpServer'
import type { EndpointStatus } from '#shared/outlets/httpServerStatus'
import type { OutletStatus } from '#shared/status'
import { Rate } from '#pacing/rate'
import type { Handle } from '../../table/tagTable'
import { Admission, plainAddress } from '../doors/admission'
import { DoorSet, type Opened } from '../doors/doorSet'
import { flowOfDoors } from '../doors/flow'
import { PasswordGate } from '../doors/passwordGate'
import { hostOf } from '../doors/place'
import { Refusals } from '../doors/refusals'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import type { Handler } from './asked'
import { Changes } from './changes'
import { docsHandler } from './docs'
import { checkDoor } from './doorCheck'
import { endpointHandler } from './endpointHandler'
import { HttpGuests, type HttpGuest } from './guests'
import { listenAt } from './listeners'
import { pastHandler } from './pastRoutes'
import { Programs } from './programs'
import { json, problem } from './reply'
import { Requests, type RouteEntry } from './requests'
import { TagShelf } from './tagShelf'
import { tagRoutes } from './tagRoutes'

/** An HTTP server over the tag table: tags, their changes, and endpoints that a person made. */
export class HttpServerSession implements OutletSession<HttpServerSettings> {
  private settings: HttpServerSettings
  private guests: HttpGuests
  private refusals: Refusals
  private programs: Programs
  private shelf: TagShelf
  private changes: Changes
  private requests: Requests
  private doors: DoorSet<HttpDoor, Opened>
  private endpoints: EndpointStatus[] = []
  private rates: { told: Rate; requests: Rate }
  private stops: (() => void)[]
  private work: Promise<unknown>
  private shown: HttpGuest['rules'][] = []

  constructor(private context: OutletContext<HttpServerSettings>) {
    const { settings, security, table, journal, name } = context
    const caution = (text: string) => journal.caution(name, text)
    this.settings = settings
    this.guests = new HttpGuests(settings, new PasswordGate(security.seal, caution))
    this.refusals = new Refusals(() => {})
    this.programs = new Programs(() => this.settings.limits.perMinute)
    this.shelf = new TagShelf(table)
    this.changes = new Changes(this.shelf, () => this.settings.limits.streams)
    this.requests = new Requests({
      ...{ guests: this.guests, programs: this.programs, calls: context.calls, settings: () => this.settings },
      refused: (program, text) => this.refusals.note(program, text),
    })
    const admission = new Admission(
      () => this.settings.limits,
      (from, text) => this.refusals.note(`somebody from ${from}`, text),
    )
    this.doors = new DoorSet({
      addressOf,
      listen: (door, arrivals) =>
        listenAt(door, security.own, {
          admits: (socket, ofDoor) => admission.admits(socket.remoteAddress, ofDoor.size),
          knocked: (socket) => {
            arrivals.note(socket.remoteAddress)
            admission.count(socket)
          },
          came: (connection) => context.wire.attendOne(connection, `${connection.remoteAddress}:${connection.remotePort}`),
          unsecured: (from, text) => this.refusals.note(`somebody from ${plainAddress(from)}`, `could not agree on TLS: ${text}`),
          malformed: (from, text) => this.refusals.note(`somebody from ${plainAddress(from)}`, `spoke no HTTP: ${text}`),
          asked: (request, response) => this.requests.handle(request, response, door),
        }),
      opened: (address) => journal.note(name, `Open at ${address}.`),
      failed: (why) => journal.trouble(name, why.what, why),
    })
    this.rates = { told: new Rate(() => this.changes.told), requests: new Rate(() => this.requests.count) }
    this.stops = [table.listen((handles) => this.changed(handles)), security.own.onChange(() => this.reopenSecured())]
    this.serve()
    this.work = (context.after ?? Promise.resolve()).then(() => this.doors.apply(settings.doors))
  }

  /** Doors that did not change stay as they are, with everybody who came in by them. */
  update(settings: HttpServerSettings) {
    const before = this.settings
    this.settings = settings
    this.guests.take(settings)
    this.changes.endOthers((guest) => this.guests.isStill(guest))
    if (JSON.stringify([before.endpoints]) !== JSON.stringify([settings.endpoints])) this.serve()
    this.noteShown()
    this.work = this.work.then(() => this.doors.apply(settings.doors))
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    this.shelf.setTags(changed, removed)
    this.changes.announce(changed.map(({ handle }) => handle))
  }

  shows(path: string) {
    return this.shown.some((rules) => rules.at(path) !== 'nothing')
  }

  private changed(handles: readonly Handle[]) {
    this.shelf.changed(handles)
    this.changes.announce(handles)
  }

  get changesTold() {
    return this.changes.told
  }

  status(): Omit<OutletStatus, 'id' | 'feeds'> {
    const doors = this.doors.status()
    const clients = this.programs.status(
      (id) => this.changes.followedBy(id),
      (id) => this.changes.has(id),
    )
    const why = doors.find((door) => door.fault)?.fault ?? null
    return {
      flow: flowOfDoors(doors),
      sentence: why?.what ?? sentenceOf(clients.length, this.rates.requests.perSecond),
      fault: why,
      addresses: doors.map(({ address }) => address),
      clients,
      items: clients.reduce((total, { items }) => total + items, 0),
      changesPerSecond: this.rates.told.perSecond,
      details: {
        ...{ kind: 'http-server', doors, requestsPerSecond: this.rates.requests.perSecond, underWay: this.requests.underWay },
        ...{ streams: this.changes.count, endpoints: this.endpoints.map((one) => ({ ...one })), refused: this.refusals.list() },
      },
    }
  }

  disconnect(clientId: string): boolean {
    this.changes.end(clientId)
    return this.programs.disconnect(clientId)
  }

  check(index: number) {
    const found = this.doors.at(index)
    return found ? checkDoor({ ...found, own: this.context.security.own, wire: this.context.wire }) : null
  }

  async close() {
    for (const stop of this.stops) stop()
    for (const rate of Object.values(this.rates)) rate.close()
    this.changes.close()
    await this.work
    await this.doors.close()
  }

  /** What is to be had from now on. */
  private serve() {
    const { context, settings, shelf } = this
    const mostBody = () => this.settings.limits.body
    const routes: RouteEntry[] = [
      ...tagRoutes({ shelf, write: context.write, outlet: context.name, mostBody }).map(([method, path, handler]) => ({
        method,
        path,
        handler,
      })),
      { method: 'GET', path: '/history/*', handler: pastHandler({ shelf, past: context.past }) },
      { method: 'GET', path: '/changes', handler: (asked) => this.changes.open(asked) },
      { method: 'GET', path: '/openapi.json', handler: (asked) => json(JSON.stringify(this.describe(asked.guest))) },
      { method: 'GET', path: '/docs/*', handler: docsHandler },
      { method: 'GET', path: '/docs', handler: toDocs },
      { method: 'GET', path: '/', handler: toDocs },
    ]
    this.endpoints = settings.endpoints.map(({ method, path }, i) => {
      const before = this.endpoints[i]
      const isSame = before?.method === method && before.path === path
      return isSame ? before : { method, path, calls: 0, failed: 0, lastStatus: null, lastMs: null, lastAt: null }
    })
    this.requests.take([...routes, ...settings.endpoints.map((endpoint, i) => this.entryOf(endpoint, this.endpoints[i]!))])
    this.noteShown()
  }

  private entryOf(endpoint: Endpoint, status: EndpointStatus): RouteEntry {
    const { context, shelf } = this
    const path = endpoint.path.replaceAll(/\{(\w+)\}/g, ':$1')
    const noted = (code: number, ms: number) => {
      status.calls++
      if (code >= 400) status.failed++
      Object.assign(status, { lastStatus: code, lastMs: ms, lastAt: Date.now() })
    }
    return { method: endpoint.method, path, noted, handler: this.handlerOf(endpoint, context, shelf) }
  }

  /** One that cannot be made says so, and stands in the way of no other. */
  private handlerOf(
    endpoint: Endpoint,
    { table, name, site, link, arrivals }: OutletContext<HttpServerSettings>,
    shelf: TagShelf,
  ): Handler {
    const title = `${endpoint.method} ${endpoint.path}`
    try {
      const around = { shelf, table, outlet: name, site, link, mostBody: () => this.settings.limits.body }
      return endpointHandler(endpoint, { ...around, hand: (arrival) => arrivals.hand(arrival) })
    } catch (error) {
      const why = fault('serve.answer', { endpoint: title, problem: (error as Error).message })
      this.context.journal.trouble(name, why.what, why)
      return () => problem(why)
    }
  }

  private describe(guest: HttpGuest) {
    const endpoints = this.settings.endpoints.filter(({ who }) => who.length === 0 || who.includes(guest.name))
    const hasNames = this.settings.doors.some(({ names }) => names)
    return describeOutlet({ name: this.context.name, endpoints, hasNames, may: mostOf(this.rulesFor(guest)) })
  }

  private rulesFor({ name }: HttpGuest) {
    return this.settings.users.find((user) => user.name === name)?.rules ?? this.settings.anonymous
  }

  private noteShown() {
    this.shown = [this.guests.nobody.rules, ...this.guests.all()].filter(
      (_, i) => i > 0 || this.settings.doors.some(({ anonymous }) => anonymous),
    )
  }

  /** Our certificate is another one; doors that show it have to show the new one. */
  private reopenSecured() {
    if (!this.settings.doors.some(({ tls }) => tls)) return
    this.context.journal.note(this.context.name, 'Our certificate changed; the doors that show it are opened anew.')
    this.work = this.work
      .then(() => this.doors.apply(this.settings.doors.filter(({ tls }) => !tls)))
      .then(() => this.doors.apply(this.settings.doors))
  }
}

const toDocs: Handler = () => ({ status: 302, body: '', type: 'text/plain', headers: { location: '/docs/' } })

const addressOf = (door: HttpDoor) => `${httpSchemeOf(door)}://${hostText(hostOf(door))}:${door.port}`

const sentenceOf = (programs: number, perSecond: number): string =>
  programs === 0 ? 'Open, nobody asked in the last five minutes' : `${counted(programs, 'program')}, ${perSecond} requests/s`

/** The most that any of the rules allows. */
const mostOf = (rules: readonly { may: Right }[]): Right =>
  rules.reduce<Right>((most, { may }) => (lesser(most, may) === may ? most : may), rights[0])

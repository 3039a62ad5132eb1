import { OPCUAServer, type ISessionContext, type Request, type ServerSession } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { FolderRules } from '#core/outlets/rules'
import { counted } from '#core/text/counted'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { OpcuaServerDetails } from '#shared/outlets/opcuaServerStatus'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { OutletStatus } from '#shared/status'
import { Backoff } from '#pacing/backoff'
import { keyPairOf } from '../../opcua/dialling'
import { peerStore } from '../../opcua/peerStore'
import { Rate } from '#pacing/rate'
import type { Handle } from '../../table/tagTable'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import { flowOfDoors } from '../doors/flow'
import { OpcuaCalls } from './calls'
import { driveByChange } from './changeDriven'
import { ClientBook } from './clients'
import { checkDialled } from './dialledCheck'
import { checkDoor } from './doorCheck'
import { DialledClients } from './dialled'
import { Doors } from './doors'
import { Endpoints } from './endpoints'
import { Guests } from './guests'
import { historyCapabilities } from './historyService'
import { Knocks } from './knocks'
import { OutletNodes } from './nodes'
import { Quotas } from './quotas'
import { standardNodes } from './standardNodes'
import { noteWriters } from './whoWrites'
import { answerHistory, startWithout } from '../../opcua/internals'

const productUri = 'urn:keen-conduit:engine'

interface Running {
  server: OPCUAServer
  clients: ClientBook
  doors: Doors
  dialled: DialledClients
  endpoints: Endpoints
  knocks: Knocks
}

/** An OPC UA server over the tag table. It opens, and opens again after a failure, by itself. */
export class OpcuaServerSession implements OutletSession<OpcuaServerSettings> {
  private settings: OpcuaServerSettings
  private tags = new Map<Handle, OutletTag>()
  private running: Running | null = null
  /** There from before the server listens: what changes meanwhile is not missed. */
  private nodes: OutletNodes | null = null
  private guests: Guests
  private fault: Fault | null = null
  private backoff = new Backoff(1000, 30_000)
  private retryTimer: NodeJS.Timeout | null = null
  private work: Promise<void> = Promise.resolve()
  private closed = false
  private stopListening: () => void
  private stopTrusting: () => void
  private stopShowing: () => void
  private rate = new Rate(() => this.changesTold)

  constructor(private context: OutletContext<OpcuaServerSettings>) {
    this.settings = context.settings
    this.guests = new Guests(context.settings, context.security.seal, (problem) => context.journal.caution(context.name, problem))
    this.stopListening = context.table.listen((handles) => this.nodes?.announce(handles))
    this.stopTrusting = context.security.trust.onChange(() => this.trustChanged())
    this.stopShowing = context.security.own.onChange(() => this.reopen())
    this.enqueue(async () => context.after)
    this.enqueue(() => this.open())
  }

  /** Doors that did not change stay as they are, with everybody who came in by them. */
  update(settings: OpcuaServerSettings) {
    this.settings = settings
    const change = () => this.guests.take(settings)
    if (this.running) this.running.clients.endChanged(change)
    else change()
    this.nodes?.take(settings)
    if (this.running) Object.assign(this.running.server.engine.serverCapabilities, capabilitiesOf(settings))
    void this.running?.doors.apply(settings.doors)
    this.running?.dialled.apply(settings.dialled)
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.tags.delete(handle)
    for (const tag of changed) this.tags.set(tag.handle, tag)
    this.nodes?.setTags(changed, removed)
  }

  modelChanged() {
    this.nodes?.modelChanged()
  }

  status(): Omit<OutletStatus, 'id' | 'feeds' | 'details'> & { details: OpcuaServerDetails } {
    const { clients, doors, dialled, waiting } = this.seen()
    const items = clients.reduce((total, client) => total + client.items, 0)
    const broken = [...doors, ...dialled].find((way) => way.fault !== null)
    return {
      flow: this.flow([...doors, ...dialled]),
      sentence: broken?.fault?.what ?? this.sentence(clients.length, items),
      fault: this.fault ?? broken?.fault ?? null,
      addresses: doors.map(({ address }) => address),
      clients,
      items,
      changesPerSecond: this.rate.perSecond,
      details: {
        kind: 'opcua-server',
        doors,
        dialled,
        waiting,
        onRequest: this.nodes?.requested.status() ?? { points: [], refused: [] },
      },
    }
  }

  /** Who is there, and by which ways. */
  private seen() {
    const { running } = this
    if (!running) return { clients: [], doors: [], dialled: [], waiting: [] }
    const { clients, doors, dialled, knocks } = running
    return { clients: clients.list(), doors: doors.status(), dialled: dialled.status(), waiting: knocks.waiting() }
  }

  private flow(doors: Pick<DoorStatus, 'flow'>[]): OutletStatus['flow'] {
    if (!this.running) return this.fault ? 'broken' : 'late'
    return flowOfDoors(doors)
  }

  shows(path: string) {
    return new FolderRules(this.settings.shows).at(path) !== 'nothing'
  }

  get changesTold() {
    return this.nodes?.changesTold ?? 0
  }

  disconnect(clientId: string): boolean {
    return this.running?.clients.disconnect(clientId) ?? false
  }

  check(index: number) {
    const { running } = this
    const { own } = this.context.security
    const door = running?.doors.at(index)
    if (door) return checkDoor({ ...door, own, wire: this.context.wire })
    const dialled = running?.dialled.at(index - this.settings.doors.length)
    return dialled ? checkDialled(dialled) : null
  }

  async close() {
    this.closed = true
    this.stopListening()
    this.stopTrusting()
    this.stopShowing()
    this.rate.close()
    if (this.retryTimer) clearTimeout(this.retryTimer)
    this.enqueue(() => this.shut())
    await this.work
  }

  private sentence(clients: number, items: number) {
    if (this.fault) return this.fault.what
    const pending = this.nodes?.pending ?? 0
    if (!this.running) return pending > 0 ? `Opening, ${counted(pending, 'node')} still to be set out` : 'Opening'
    if (pending > 0) return `${counted(clients, 'client')}, ${counted(pending, 'node')} still to be set out`
    return clients === 0
      ? `Open, no client connected, ${counted(this.tags.size, 'tag')} to be had`
      : `${counted(clients, 'client')}, ${counted(items, 'item')}`
  }

  /** Opening and closing take time; one after the other. */
  private enqueue(step: () => Promise<void>) {
    this.work = this.work.then(step).catch((error: unknown) => this.failed(error))
  }

  private async open() {
    if (this.closed || this.running) return
    const { journal, name, security } = this.context
    const knocks = new Knocks(
      security.trust,
      (der) => this.running?.endpoints.originOf(der) ?? '',
      (knock) =>
        journal.caution(
          name,
          `“${knock.facts.name}” from ${knock.from || 'somewhere'} is at the door: nobody here has decided about its certificate.`,
        ),
    )
    const server = this.makeServer(knocks)
    try {
      await server.initialize()
      const tell = (problem: string) => journal.caution(name, problem)
      const nodes = new OutletNodes(server.engine.addressSpace!, this.context, this.guests, this.settings, this.tags, tell)
      this.nodes = nodes
      await nodes.settled()
      driveByChange(server, (session, source) => nodes.alarms.mayHear({ session } as unknown as ISessionContext, source))
      noteWriters(server, this.guests, this.context.name)
      answerHistory(server, nodes.history)
      Object.assign(server.engine.historyServerCapabilities, historyCapabilities)
      const handlers = await startWithout(server)
      const quotas = new Quotas(
        server,
        this.guests,
        () => this.settings.limits,
        (text) => journal.caution(name, text),
      )
      const clients = new ClientBook(server, this.guests)
      const calls = new OpcuaCalls(server, clients, this.context.calls)
      const { wire } = this.context
      const endpoints = new Endpoints(server, handlers, keyPairOf(security.own), wire, (channel) => calls.attend(channel))
      const failed = (why: Fault) => journal.trouble(name, why.what, why)
      const doors = new Doors(endpoints, quotas, wire, { opened: (address) => journal.note(name, `Open at ${address}.`), failed })
      const taken = (client: string) => journal.note(name, `${client} takes up the connection that we opened.`)
      const dialled = new DialledClients({ endpoints, wire, serverUri: security.own.uri, taken, failed })
      server.on('request', (request: Request) => nodes.requested.prepare(request, () => this.whoAsks(request)))
      this.running = { server, clients, doors, dialled, endpoints, knocks }
      this.fault = null
      this.backoff.reset()
      await doors.apply(this.settings.doors)
      dialled.apply(this.settings.dialled)
    } catch (error) {
      this.nodes?.close()
      this.nodes = null
      this.running = null
      await server.shutdown(0).catch(() => {})
      throw error
    }
  }

  private makeServer(knocks: Knocks) {
    const { security, name } = this.context
    return new OPCUAServer({
      endpoints: [],
      // doors are guarded by quotas, which say what they refuse
      maxConnectionsPerEndpoint: 1100,
      nodesets: [standardNodes],
      serverCertificateManager: peerStore((der) => knocks.judge(der)),
      userCertificateManager: peerStore((der) => this.guests.statusOf(der)),
      certificateKeyPairProvider: keyPairOf(security.own),
      userManager: { isValidUserAsync: asksGuests(this.guests) },
      buildInfo: { productName: 'Keen Conduit', manufacturerName: 'Keen Conduit', productUri },
      serverInfo: { applicationName: { text: name }, applicationUri: security.own.uri, productUri },
      serverCapabilities: {
        ...capabilitiesOf(this.settings),
        maxSubscriptions: 1000,
        maxSubscriptionsPerSession: 50,
        operationLimits: { maxNodesPerRead: 10_000, maxNodesPerBrowse: 10_000, maxMonitoredItemsPerCall: 10_000, maxNodesPerWrite: 10_000 },
      },
    })
  }

  /** Our certificate is another one; every door has to show it. */
  private reopen() {
    this.context.journal.note(this.context.name, 'Our certificate changed; the doors are opened anew.')
    this.enqueue(() => this.shut())
    this.enqueue(() => this.open())
  }

  /** Who is let in may stay only as long as that holds. */
  private trustChanged() {
    const { trust } = this.context.security
    this.running?.clients.endUntrusted((der) => trust.verdictOn(der).kind === 'trusted')
  }

  /** Points on request may lie anywhere: they are for those who may see the whole site. */
  private whoAsks(request: Request) {
    const who = this.running?.clients.whoAsks(request)
    return who ? { name: who.name, maySeeAll: who.guest !== null && who.guest.rules.at('') !== 'nothing' } : null
  }

  private async shut() {
    const running = this.running
    this.running = null
    if (!running) return
    running.dialled.close()
    await running.doors.close()
    this.nodes?.close()
    this.nodes = null
    await running.server.shutdown(0)
  }

  private failed(error: unknown) {
    const problem = error instanceof Error ? error.message : String(error)
    const first = this.fault === null
    this.fault = fault('outlet.failed', { problem })
    if (first) this.context.journal.trouble(this.context.name, this.fault.what, this.fault)
    if (this.closed) return
    this.retryTimer = setTimeout(() => this.enqueue(() => this.open()), this.backoff.next())
  }
}

/** The package hands the session over as `this`, and wants to be called back. */
const asksGuests = (guests: Guests) =>
  function (this: ServerSession, name: string, password: string, done: (error: Error | null, isIn?: boolean) => void) {
    const from = this.channel?.remoteAddress ?? 'unknown'
    guests.isUser(name, password, from).then(
      (isIn) => done(null, isIn),
      (error: Error) => done(error),
    )
  }

/** What clients read of the limits before they meet them. */
const capabilitiesOf = ({ limits }: OpcuaServerSettings) => ({
  maxSessions: limits.sessions,
  maxMonitoredItems: limits.items,
  maxMonitoredItemsPerSubscription: limits.itemsPerSession,
  maxMonitoredItemsQueueSize: limits.queue,
})

import { createServer } from 'node:net'
import { join } from 'node:path'
import { MessageSecurityMode, nodesets, OPCUACertificateManager, OPCUAServer, SecurityPolicy } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { OutletStatus } from '#shared/status'
import { Backoff } from '../../links/backoff'
import { Rate } from '../../rate'
import type { Handle } from '../../table/tagTable'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import { counted } from '#core/text/counted'
import { TagNodes } from './addressSpace'
import { ClientBook } from './clients'

/** Where the outlet listens until a person opens more doors. */
const loopback = '127.0.0.1'
const productUri = 'urn:keen-conduit:engine'

interface Running {
  server: OPCUAServer
  clients: ClientBook
}

/** An OPC UA server over the tag table. It opens, and opens again after a failure, by itself. */
export class OpcuaServerSession implements OutletSession<OpcuaServerSettings> {
  private settings: OpcuaServerSettings
  private tags = new Map<Handle, OutletTag>()
  private running: Running | null = null
  /** There from before the server listens: what changes meanwhile is not missed. */
  private nodes: TagNodes | null = null
  private fault: Fault | null = null
  private backoff = new Backoff(1000, 30_000)
  private retryTimer: NodeJS.Timeout | null = null
  private work: Promise<void> = Promise.resolve()
  private closed = false
  private stopListening: () => void
  private rate = new Rate(() => this.changesTold)

  constructor(private context: OutletContext<OpcuaServerSettings>) {
    this.settings = context.settings
    this.stopListening = context.table.listen((handles) => this.nodes?.announce(handles))
    this.enqueue(() => this.open())
  }

  update(settings: OpcuaServerSettings) {
    const moves = settings.port !== this.settings.port
    this.settings = settings
    if (!moves) return
    if (this.retryTimer) clearTimeout(this.retryTimer)
    this.enqueue(async () => {
      await this.shut()
      await this.open()
    })
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.tags.delete(handle)
    const different = changed.filter((tag) => !sameTag(this.tags.get(tag.handle), tag))
    for (const tag of changed) this.tags.set(tag.handle, tag)
    this.nodes?.change(different, removed)
  }

  status(): Omit<OutletStatus, 'id'> {
    const clients = this.running?.clients.list() ?? []
    const address = `opc.tcp://${loopback}:${this.settings.port}`
    const items = clients.reduce((total, client) => total + client.items, 0)
    return {
      flow: this.running ? 'flowing' : this.fault ? 'broken' : 'late',
      sentence: this.sentence(clients.length, items),
      fault: this.fault,
      addresses: [address],
      clients,
      items,
      changesPerSecond: this.rate.perSecond,
    }
  }

  get changesTold() {
    return this.nodes?.changesTold ?? 0
  }

  disconnect(clientId: string): boolean {
    return this.running?.clients.disconnect(clientId) ?? false
  }

  async close() {
    this.closed = true
    this.stopListening()
    this.rate.close()
    if (this.retryTimer) clearTimeout(this.retryTimer)
    this.enqueue(() => this.shut())
    await this.work
  }

  private sentence(clients: number, items: number) {
    if (this.fault) return this.fault.what
    const pending = this.nodes?.pending ?? 0
    if (!this.running) return pending > 0 ? `Opening, ${counted(pending, 'tag')} still to be set out` : 'Opening'
    if (pending > 0) return `${counted(clients, 'client')}, ${counted(pending, 'tag')} still to be set out`
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
    await requireFreePort(this.settings.port)
    const server = this.makeServer()
    try {
      await server.initialize()
      const { table, write, journal, name } = this.context
      const tell = (problem: string) => journal.caution(name, problem)
      const nodes = new TagNodes(server.engine.addressSpace!, table, write, () => this.settings.anonymousMayWrite, tell)
      this.nodes = nodes
      nodes.change([...this.tags.values()], [])
      await nodes.settled()
      await server.start()
      this.running = { server, clients: new ClientBook(server) }
      this.fault = null
      this.backoff.reset()
      journal.note(name, `Open at opc.tcp://${loopback}:${this.settings.port}.`)
    } catch (error) {
      this.nodes?.close()
      this.nodes = null
      await server.shutdown(0).catch(() => {})
      throw error
    }
  }

  private makeServer() {
    const certificates = new OPCUACertificateManager({
      rootFolder: join(this.context.stateFolder, 'opcua', 'pki'),
      automaticallyAcceptUnknownCertificate: false,
    })
    return new OPCUAServer({
      host: loopback,
      hostname: loopback,
      port: this.settings.port,
      securityPolicies: [SecurityPolicy.None],
      securityModes: [MessageSecurityMode.None],
      allowAnonymous: true,
      nodeset_filename: [nodesets.standard],
      serverCertificateManager: certificates,
      userCertificateManager: certificates,
      buildInfo: { productName: 'Keen Conduit', manufacturerName: 'Keen Conduit', productUri },
      serverInfo: { applicationName: { text: this.context.name }, productUri },
      serverCapabilities: {
        maxSessions: 100,
        maxSubscriptions: 500,
        maxMonitoredItems: 500_000,
        operationLimits: { maxNodesPerRead: 10_000, maxNodesPerBrowse: 10_000, maxMonitoredItemsPerCall: 10_000, maxNodesPerWrite: 10_000 },
      },
    })
  }

  private async shut() {
    const running = this.running
    this.running = null
    if (!running) return
    this.nodes?.close()
    this.nodes = null
    await running.server.shutdown(0)
  }

  private failed(error: unknown) {
    const problem = error instanceof Error ? error.message : String(error)
    const taken = problem.includes('EADDRINUSE')
    const facts = { host: loopback, port: this.settings.port }
    const first = this.fault === null
    this.fault = taken ? fault('port.in-use', facts, 'EADDRINUSE') : fault('outlet.failed', { problem })
    if (first) this.context.journal.trouble(this.context.name, this.fault.what, this.fault)
    if (this.closed) return
    this.retryTimer = setTimeout(() => this.enqueue(() => this.open()), this.backoff.next())
  }
}

const sameTag = (a: OutletTag | undefined, b: OutletTag) =>
  a !== undefined &&
  a.path === b.path &&
  a.type === b.type &&
  a.writable === b.writable &&
  a.unit === b.unit &&
  a.description === b.description

/** Setting out nodes takes a while; a port that is taken is better known before. Rejects with EADDRINUSE. */
const requireFreePort = (port: number) =>
  new Promise<void>((resolve, reject) => {
    const probe = createServer()
    probe.once('error', reject)
    probe.listen(port, loopback, () => probe.close(() => resolve()))
  })

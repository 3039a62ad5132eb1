import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  MessageSecurityMode,
  nodesets,
  OPCUACertificateManager,
  OPCUAServer,
  SecurityPolicy,
  ServerState,
  WellKnownRoles,
  resolveNodeId,
  type ServerSession,
} from 'node-opcua'
import { certificateFacts } from '#security/certificateFacts'
import { derOf, makeSelfSigned, type KeyPair } from '#security/selfSigned'
import type { CableArm } from '../physics/cableArm'
import { ArmNodes, armNamespace, armUri, spareUri, type Clock } from './armNodes'
import { needsRestart, type ArmFault } from './faults'

interface ArmOptions {
  folder: string
  port: number
  /** Points under Diagnostics. */
  cells: number
}

/** Users of every arm's server; made up, as everything here. */
export const armUsers: Record<string, string> = { conduit: 'plug-and-socket', quay: 'reel-in-slowly' }

const twoHours = 7_200_000
const yearDays = 365

/** A cable arm's controller with its own OPC UA server, certificate, users and list of those it trusts. */
export class ArmServer {
  private server: OPCUAServer | null = null
  private manager: OPCUACertificateManager
  private faults = new Set<ArmFault>()
  private busy: Promise<void> = Promise.resolve()
  port: number

  constructor(
    readonly arm: CableArm,
    private options: ArmOptions,
  ) {
    mkdirSync(options.folder, { recursive: true })
    this.port = options.port
    this.manager = new OPCUACertificateManager({ rootFolder: join(options.folder, 'pki'), automaticallyAcceptUnknownCertificate: false })
  }

  async start() {
    const pair = await this.pair()
    const [certificateFile, privateKeyFile] = ['certificate.pem', 'key.pem'].map((name) => join(this.options.folder, name)) as [
      string,
      string,
    ]
    writeFileSync(certificateFile, pair.certificate)
    writeFileSync(privateKeyFile, pair.key, { mode: 0o600 })
    await this.manager.initialize()
    const server = new OPCUAServer({
      port: this.port,
      host: '127.0.0.1',
      hostname: this.faults.has('wrong-host') ? `arm${this.arm.number}.quay.invalid` : '127.0.0.1',
      resourcePath: '/arm',
      nodeset_filename: [nodesets.standard, join(import.meta.dirname, 'armTypes.xml')],
      buildInfo: { productName: 'Cable arm controller', manufacturerName: 'Harrow Sound', buildNumber: '7', softwareVersion: '2.4' },
      serverInfo: { applicationUri: this.uri, productUri: 'urn:harrow-sound:cable-arm', applicationName: { text: this.name } },
      serverCertificateManager: this.manager,
      userCertificateManager: this.manager,
      certificateFile,
      privateKeyFile,
      securityPolicies: [
        SecurityPolicy.None,
        SecurityPolicy.Basic256Sha256,
        SecurityPolicy.Aes128_Sha256_RsaOaep,
        SecurityPolicy.Aes256_Sha256_RsaPss,
      ],
      securityModes: [MessageSecurityMode.None, MessageSecurityMode.Sign, MessageSecurityMode.SignAndEncrypt],
      allowAnonymous: true,
      userManager: {
        isValidUser: (user: string, password: string) => !this.faults.has('refuses-user') && armUsers[user] === password,
        getUserRoles: (user: string) =>
          [user === 'anonymous' ? WellKnownRoles.Anonymous : WellKnownRoles.AuthenticatedUser].map((role) => resolveNodeId(`i=${role}`)),
      },
      serverCapabilities: {
        maxSessions: 20,
        operationLimits: { maxNodesPerRead: 1000, maxMonitoredItemsPerCall: 1000, maxNodesPerBrowse: 500 },
      },
      discoveryServerEndpointUrl: '',
      isAuditing: false,
    })
    await server.initialize()
    this.fill(server)
    await server.start()
    server.engine.setServerState(ServerState.Running)
    this.port = server.endpoints[0]!.port
    this.swallowPublishing(server)
    this.server = server
  }

  async stop() {
    const server = this.server
    this.server = null
    await server?.shutdown(50)
  }

  get name() {
    return `Cable arm berth ${this.arm.number}`
  }

  get uri() {
    return armUri(this.arm.number)
  }

  get url() {
    return `opc.tcp://127.0.0.1:${this.port}/arm`
  }

  get activeFaults() {
    return [...this.faults]
  }

  get sessions() {
    return this.server?.engine.currentSessionCount ?? 0
  }

  get subscriptions() {
    return this.server?.engine.currentSubscriptionCount ?? 0
  }

  /** Switches a fault; those that need it restart the server. Resolves when it is in force. */
  setFault(fault: ArmFault, on: boolean): Promise<void> {
    this.busy = this.busy.then(() => this.applyFault(fault, on))
    return this.busy
  }

  private async applyFault(fault: ArmFault, on: boolean) {
    if (this.faults.has(fault) === on) return
    if (on) this.faults.add(fault)
    else this.faults.delete(fault)
    if (fault === 'trusts-nobody' && on) await this.forgetAll()
    if (fault === 'publishes-nothing' && on) this.forgetPublishRequests()
    if (!needsRestart.has(fault)) return
    await this.stop()
    await this.start()
  }

  /** Ends every session and connection, as a controller does when somebody loads a program. */
  dropSessions() {
    for (const { authenticationToken } of this.openSessions()) this.server!.engine.closeSession(authenticationToken, true, 'Terminated')
    this.dropConnections()
  }

  private openSessions(): ServerSession[] {
    const engine = this.server?.engine as unknown as { _sessions: Record<string, ServerSession> } | undefined
    return Object.values(engine?._sessions ?? {})
  }

  private forgetPublishRequests() {
    for (const { publishEngine } of this.openSessions())
      (publishEngine as unknown as { _publish_request_queue: unknown[] })._publish_request_queue.length = 0
  }

  /** Breaks the connections and keeps the sessions, as a pulled cable does. */
  dropConnections() {
    for (const endpoint of this.server?.endpoints ?? []) endpoint.abruptlyInterruptChannels()
  }

  async restart() {
    await this.stop()
    await this.start()
  }

  /** Certificates of clients: those it trusts and those that wait. */
  clients() {
    const read = (folder: 'trusted' | 'rejected') =>
      filesIn(this.folderOf(folder)).map((file) => {
        const { name, fingerprint } = certificateFacts(readFileSync(file))
        return { name, fingerprint, trusted: folder === 'trusted' }
      })
    return [...read('trusted'), ...read('rejected')]
  }

  async trust(fingerprint: string): Promise<boolean> {
    const file = filesIn(this.folderOf('rejected')).find((path) => certificateFacts(readFileSync(path)).fingerprint === fingerprint)
    if (!file) return false
    await this.trustCertificate(derFrom(file))
    this.faults.delete('trusts-nobody')
    return true
  }

  trustCertificate(der: Buffer): Promise<void> {
    return this.manager.trustCertificate(der)
  }

  private async forgetAll() {
    for (const file of filesIn(this.folderOf('trusted'))) {
      await this.manager.rejectCertificate(derFrom(file))
      rmSync(file, { force: true })
    }
    this.dropSessions()
  }

  private folderOf(kind: 'trusted' | 'rejected') {
    return kind === 'trusted' ? join(this.options.folder, 'pki', 'trusted', 'certs') : join(this.options.folder, 'pki', 'rejected')
  }

  private fill(server: OPCUAServer) {
    const addressSpace = server.engine.addressSpace!
    const clock = { now: () => new Date(Date.now() - (this.faults.has('clock-wrong') ? twoHours : 0)) }
    if (this.faults.has('reordered')) this.fillSpare(server)
    new ArmNodes(addressSpace, addressSpace.registerNamespace(armNamespace(this.arm.number)), this.arm, clock).build(this.options.cells)
    tellTime(server, clock)
  }

  /** Takes the index that the arm's own namespace had before, with nodes of the same names and other values. */
  private fillSpare(server: OPCUAServer) {
    const addressSpace = server.engine.addressSpace!
    const spare = addressSpace.registerNamespace(spareUri)
    for (const id of ['Plug.Position.Extension', 'Global.Current', 'Reel.Step'])
      spare.addVariable({
        organizedBy: addressSpace.rootFolder.objects,
        nodeId: `s=${id}`,
        browseName: `Spare ${id}`,
        dataType: 'Double',
        value: { dataType: 'Double', value: -999 },
      })
  }

  /** Publish requests are taken and never answered while the fault is on. */
  private swallowPublishing(server: OPCUAServer) {
    const open = server as unknown as { _on_PublishRequest(...args: unknown[]): void }
    const answer = open._on_PublishRequest.bind(server)
    open._on_PublishRequest = (...args) => {
      if (!this.faults.has('publishes-nothing')) answer(...args)
    }
  }

  /** The pair that fits the faults; the sound one is kept from run to run, so that trust lasts. */
  private async pair(): Promise<KeyPair> {
    const odd = (['expired', 'not-yet', 'other-host', 'short-key'] as const).find((fault) => this.faults.has(fault))
    const files = ['certificate', 'key'].map((name) => join(this.options.folder, `${odd ?? 'sound'}.${name}.pem`)) as [string, string]
    try {
      return { certificate: readFileSync(files[0], 'utf8'), key: readFileSync(files[1], 'utf8') }
    } catch {
      const made = await this.makePair(odd ?? null)
      writeFileSync(files[0], made.certificate)
      writeFileSync(files[1], made.key, { mode: 0o600 })
      return made
    }
  }

  private makePair(odd: 'expired' | 'not-yet' | 'other-host' | 'short-key' | null): Promise<KeyPair> {
    const fromYears = (years: number) => new Date(Date.now() + years * yearDays * 86_400_000)
    return makeSelfSigned({
      commonName: this.name,
      organization: 'Harrow Sound Ferry Port',
      applicationUri: this.uri,
      dns: odd === 'other-host' ? [`arm${this.arm.number}.workshop.example`] : ['localhost', `arm${this.arm.number}.quay.invalid`],
      ip: odd === 'other-host' ? [] : ['127.0.0.1'],
      ...(odd === 'expired' ? { from: fromYears(-3), days: 2 * yearDays } : {}),
      ...(odd === 'not-yet' ? { from: fromYears(1), days: yearDays } : {}),
      ...(odd === 'short-key' ? { bits: 1024 as const } : {}),
    })
  }

  get certificate(): Buffer {
    return derOf(readFileSync(join(this.options.folder, 'certificate.pem'), 'utf8'))
  }
}

/** Lets the server's own status show the arm's clock. */
const tellTime = (server: OPCUAServer, clock: Clock) => {
  const node = server.engine.addressSpace!.findNode('i=2256') as unknown as { $extensionObject: object }
  node.$extensionObject = new Proxy(node.$extensionObject, {
    get: (status, name) => (name === 'currentTime' ? clock.now() : (status as Record<string | symbol, unknown>)[name]),
  })
}

const filesIn = (folder: string): string[] => {
  try {
    return readdirSync(folder).map((name) => join(folder, name))
  } catch {
    return []
  }
}

const derFrom = (file: string): Buffer => {
  const bytes = readFileSync(file)
  return bytes[0] === 0x30 ? bytes : derOf(bytes.toString('utf8'))
}

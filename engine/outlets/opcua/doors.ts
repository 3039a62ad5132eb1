import { hostname } from 'node:os'
import { promisify } from 'node:util'
import {
  CreateSessionRequest,
  GetEndpointsRequest,
  MessageSecurityMode,
  UserTokenType,
  type InMemoryCertificateKeyPairProvider,
  type OPCUAServer,
  type OPCUAServerEndPoint,
} from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import type { Door } from '#shared/outlets/opcuaServer'
import type { DoorStatus } from '#shared/outlets/opcuaServerStatus'
import { isOwnAddress } from '../../wire/interfaces'
import type { Wire } from '../../wire/wire'
import { uaMode, uaPolicy } from '../../opcua/dialling'
import { addEndpoint, endpointFor, listenerOf, lookAt, removeEndpoint, type NoEndpoint } from '../../opcua/internals'
import { Backoff } from '#pacing/backoff'
import { Arrivals } from './arrivals'
import type { Quotas } from './quotas'
import { answeredAsUnanswerable, keepInsideIn } from './unanswerable'

interface OpenDoor {
  key: string
  door: Door
  endpoint: OPCUAServerEndPoint | null
  fault: Fault | null
  timer: NodeJS.Timeout | null
  backoff: Backoff
  arrivals: Arrivals
}

/** The doors of one server. Each opens, fails and is tried again by itself; who came in by another never notices. */
export class Doors {
  private doors: OpenDoor[] = []
  private work: Promise<void> = Promise.resolve()
  private closed = false

  constructor(
    private server: OPCUAServer,
    private handlers: NoEndpoint,
    private provider: InMemoryCertificateKeyPairProvider,
    private quotas: Pick<Quotas, 'guard'>,
    private wire: Wire,
    private tell: { opened(address: string): void; failed(why: Fault): void },
  ) {}

  /** Opens what is new, closes what is gone, and leaves the rest alone. */
  apply(wanted: readonly Door[]): Promise<void> {
    return this.enqueue(async () => {
      const keys = new Set(wanted.map(keyOf))
      const gone = this.doors.filter(({ key }) => !keys.has(key))
      this.doors = this.doors.filter(({ key }) => keys.has(key))
      for (const door of gone) await this.shut(door)
      const known = new Set(this.doors.map(({ key }) => key))
      for (const door of wanted) if (!known.has(keyOf(door))) await this.add(door)
      // whoever looks at the settings beside finds the third door in the third place
      const places = wanted.map(keyOf)
      this.doors.sort((a, b) => places.indexOf(a.key) - places.indexOf(b.key))
    })
  }

  status(): DoorStatus[] {
    return this.doors.map(({ door, endpoint, fault: why, arrivals }) => ({
      address: addressOf(door),
      interface: door.interface,
      port: door.port,
      flow: !door.on ? 'off' : endpoint ? 'flowing' : why ? 'broken' : 'late',
      fault: why,
      arrivals: arrivals.status(),
    }))
  }

  /** A door as it is now; null: there is none of this number. */
  at(index: number): { door: Door; status: DoorStatus } | null {
    const made = this.doors[index]
    return made ? { door: made.door, status: this.status()[index]! } : null
  }

  /** Where somebody with this certificate comes from, as far as a channel shows it. */
  originOf(der: Buffer): string {
    for (const { endpoint } of this.doors)
      for (const channel of endpoint?.getChannels() ?? [])
        if (channel.clientCertificate && Buffer.compare(channel.clientCertificate, der) === 0) return channel.remoteAddress
    return this.lastFrom
  }
  private lastFrom = ''

  close(): Promise<void> {
    this.closed = true
    return this.enqueue(async () => {
      for (const door of this.doors) await this.shut(door)
      this.doors = []
    })
  }

  private enqueue(task: () => Promise<void>) {
    this.work = this.work.then(task, task)
    return this.work
  }

  private async add(door: Door) {
    const fresh = { endpoint: null, fault: null, timer: null, backoff: new Backoff(1000, 30_000), arrivals: new Arrivals() }
    const made: OpenDoor = { key: keyOf(door), door, ...fresh }
    this.doors.push(made)
    if (door.on) await this.open(made)
  }

  private async open(made: OpenDoor) {
    const { door } = made
    try {
      requireInterface(door)
      made.endpoint = await this.listen(door, made.arrivals)
      made.fault = null
      made.backoff.reset()
      this.tell.opened(addressOf(door))
    } catch (error) {
      this.failed(made, error as Error & { code?: string })
    }
  }

  private async listen(door: Door, arrivals: Arrivals): Promise<OPCUAServerEndPoint> {
    const endpoint = endpointFor(this.server, this.handlers, door.port, door.interface)
    endpoint.setCertificateProvider(this.provider)
    endpoint.on('newChannel', (channel) => {
      this.lastFrom = channel.remoteAddress
      keepInsideIn(channel)
    })
    endpoint.addStandardEndpointDescriptions(descriptionsOf(door))
    endpoint.on('message', (message, channel) => {
      if (!answeredAsUnanswerable(message, channel)) lookAt(this.server, asOfThisDoor(message, door), channel)
    })
    await promisify(endpoint.start.bind(endpoint))()
    // before anything is said: a connection that stops at the first byte tells that no firewall swallows it
    const listener = listenerOf(endpoint)
    if (listener) this.quotas.guard(listener, () => endpoint.getChannels())
    if (listener) this.wire.attend(listener)
    listener?.on('connection', (socket) => arrivals.note(socket.remoteAddress))
    addEndpoint(this.server, endpoint)
    return endpoint
  }

  private failed(made: OpenDoor, error: Error & { code?: string }) {
    const first = made.fault === null
    const { interface: host, port } = made.door
    made.fault =
      error.code === 'EADDRINUSE'
        ? fault('port.in-use', { host, port }, 'EADDRINUSE')
        : error.code === 'EADDRNOTAVAIL'
          ? fault('outlet.no-interface', { address: host }, 'EADDRNOTAVAIL')
          : fault('outlet.failed', { problem: error.message })
    if (first) this.tell.failed(made.fault)
    if (this.closed) return
    made.timer = setTimeout(
      () => void this.enqueue(() => (this.doors.includes(made) ? this.open(made) : Promise.resolve())),
      made.backoff.next(),
    )
  }

  private async shut(made: OpenDoor) {
    if (made.timer) clearTimeout(made.timer)
    const { endpoint } = made
    made.endpoint = null
    if (!endpoint) return
    removeEndpoint(this.server, endpoint)
    endpoint.abruptlyInterruptChannels()
    await promisify(endpoint.shutdown.bind(endpoint))().catch(() => {})
  }
}

/**
 * The package looks an endpoint up by the address that the client names, whichever door it came by, and
 * shows all doors where it finds none. Whoever came by this door gets what this door offers, and has
 * to sign in as this door asks (OPC 10000-4, 5.5.4.2: the server answers with a suitable default).
 */
const asOfThisDoor = (message: { request: object }, door: Door) => {
  const { request } = message
  if (request instanceof GetEndpointsRequest || request instanceof CreateSessionRequest) request.endpointUrl = addressOf(door)
  return message
}

const keyOf = (door: Door) => JSON.stringify(door)

const everywhere = new Set(['0.0.0.0', '::'])

/** What clients are told to dial. */
export const hostOf = (door: Door) => door.giveOut || (everywhere.has(door.interface) ? hostname() : door.interface)
export const addressOf = (door: Door) => `opc.tcp://${hostText(hostOf(door))}:${door.port}`

const descriptionsOf = (door: Door) => ({
  hostname: hostText(hostOf(door)),
  allowAnonymous: door.anonymous,
  userTokenTypes: [
    ...(door.anonymous ? [UserTokenType.Anonymous] : []),
    ...(door.names ? [UserTokenType.UserName] : []),
    ...(door.certificates ? [UserTokenType.Certificate] : []),
  ],
  securityPolicies: door.policies.map((policy) => uaPolicy[policy]),
  securityModes: [...(door.policies.includes('None') ? [MessageSecurityMode.None] : []), ...door.modes.map((mode) => uaMode[mode])],
})

/** The system would say so, too, but only once it listens. */
const requireInterface = ({ interface: address }: Door) => {
  if (everywhere.has(address)) return
  if (!isOwnAddress(address)) throw Object.assign(new Error(address), { code: 'EADDRNOTAVAIL' })
}

import { promisify } from 'node:util'
import {
  CreateSessionRequest,
  GetEndpointsRequest,
  MessageSecurityMode,
  UserTokenType,
  type ServerSecureChannelLayer,
  type InMemoryCertificateKeyPairProvider,
  type OPCUAServer,
  type OPCUAServerEndPoint,
} from 'node-opcua'
import type { Fault } from '#core/faults/catalogue'
import { hostText } from '#core/opcua/endpointAddress'
import type { Door } from '#shared/outlets/opcuaServer'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { Inside } from '../../wire/tap'
import type { Wire } from '../../wire/wire'
import { inClear, isInside, isSecuredMessage } from '../../opcua/inClear'
import { uaMode, uaPolicy } from '../../opcua/dialling'
import { addEndpoint, beforeEachAnswer, endpointFor, listenerOf, lookAt, removeEndpoint, type NoEndpoint } from '../../opcua/internals'
import type { Arrivals } from '../doors/arrivals'
import { DoorSet, type Opened } from '../doors/doorSet'
import { hostOf } from '../doors/place'
import type { Quotas } from './quotas'
import { answeredAsUnanswerable, keepInsideIn } from './unanswerable'

interface OpenEndpoint extends Opened {
  endpoint: OPCUAServerEndPoint
}

/** The doors of one server: each is an endpoint of its own. */
export class Doors {
  private doors: DoorSet<Door, OpenEndpoint>
  private lastFrom = ''
  /** Channels as they are read here. */
  private insides = new WeakMap<ServerSecureChannelLayer, Inside>()

  constructor(
    private server: OPCUAServer,
    private handlers: NoEndpoint,
    private provider: InMemoryCertificateKeyPairProvider,
    private quotas: Pick<Quotas, 'guard'>,
    private wire: Wire,
    private tell: { opened(address: string): void; failed(why: Fault): void; came(channel: ServerSecureChannelLayer): void },
  ) {
    this.doors = new DoorSet({ ...tell, addressOf, listen: (door, arrivals) => this.listen(door, arrivals) })
  }

  apply(wanted: readonly Door[]): Promise<void> {
    return this.doors.apply(wanted)
  }

  status(): DoorStatus[] {
    return this.doors.status()
  }

  at(index: number) {
    return this.doors.at(index)
  }

  /** Where somebody with this certificate comes from, as far as a channel shows it. */
  originOf(der: Buffer): string {
    for (const { endpoint } of this.doors.open())
      for (const channel of endpoint.getChannels())
        if (channel.clientCertificate && Buffer.compare(channel.clientCertificate, der) === 0) return channel.remoteAddress
    return this.lastFrom
  }

  close(): Promise<void> {
    return this.doors.close()
  }

  private async listen(door: Door, arrivals: Arrivals): Promise<OpenEndpoint> {
    const endpoint = endpointFor(this.server, this.handlers, door.port, door.interface)
    endpoint.setCertificateProvider(this.provider)
    endpoint.on('newChannel', (channel) => {
      this.lastFrom = channel.remoteAddress
      keepInsideIn(channel)
      this.showInside(channel)
      this.tell.came(channel)
    })
    endpoint.addStandardEndpointDescriptions(descriptionsOf(door))
    endpoint.on('message', (message, channel) => {
      if (isInside(message.request)) this.insides.get(channel)?.tell(false, () => inClear(message.request))
      if (!answeredAsUnanswerable(message, channel)) lookAt(this.server, asOfThisDoor(message, door), channel)
    })
    await promisify(endpoint.start.bind(endpoint))()
    // before anything is said: a connection that stops at the first byte tells that no firewall swallows it
    const listener = listenerOf(endpoint)
    if (listener) this.quotas.guard(listener, () => endpoint.getChannels())
    if (listener) this.wire.attend(listener)
    listener?.on('connection', (socket) => arrivals.note(socket.remoteAddress))
    addEndpoint(this.server, endpoint)
    return { endpoint, close: () => this.shut(endpoint) }
  }

  /** What only both ends can read is shown as we have it. */
  private showInside(channel: ServerSecureChannelLayer) {
    const isSecured = () => channel.securityMode === MessageSecurityMode.Sign || channel.securityMode === MessageSecurityMode.SignAndEncrypt
    const peer = `${channel.remoteAddress}:${channel.remotePort}`
    const inside = this.wire.tap.inside(peer, (chunk) => isSecured() && isSecuredMessage(chunk))
    const told: Inside = { ...inside, tell: (out, message) => isSecured() && inside.tell(out, message) }
    this.insides.set(channel, told)
    beforeEachAnswer(channel, (response, request) => {
      // the package says so as well, a moment later
      response.responseHeader.requestHandle = request.requestHeader.requestHandle
      if (isInside(response)) told.tell(true, () => inClear(response))
    })
  }

  private async shut(endpoint: OPCUAServerEndPoint) {
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

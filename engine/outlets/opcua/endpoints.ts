import {
  CreateSessionRequest,
  GetEndpointsRequest,
  MessageSecurityMode,
  UserTokenType,
  type InMemoryCertificateKeyPairProvider,
  type OPCUAServer,
  type OPCUAServerEndPoint,
  type ServerSecureChannelLayer,
} from 'node-opcua'
import { endpointUrl, hostText, type EndpointAddress } from '#core/opcua/endpointAddress'
import type { Entrance } from '#shared/outlets/opcuaServer'
import { uaMode, uaPolicy } from '../../opcua/dialling'
import { inClear, isInside, isSecuredMessage } from '../../opcua/inClear'
import { addEndpoint, beforeEachAnswer, endpointFor, lookAt, removeEndpoint, type NoEndpoint } from '../../opcua/internals'
import type { Inside } from '../../wire/tap'
import type { Wire } from '../../wire/wire'
import { askedFor } from './whoWrites'
import { answeredAsUnanswerable, keepInsideIn } from './unanswerable'

/** The endpoints of one server, each with an address and an entrance of its own, however connections to it come about. */
export class Endpoints {
  private open = new Set<OPCUAServerEndPoint>()
  private lastFrom = ''
  /** Channels as they are read here. */
  private insides = new WeakMap<ServerSecureChannelLayer, Inside>()

  constructor(
    private server: OPCUAServer,
    private handlers: NoEndpoint,
    private provider: InMemoryCertificateKeyPairProvider,
    private wire: Wire,
    private came: (channel: ServerSecureChannelLayer) => void,
  ) {}

  /** One that answers whoever comes by it as itself; it is not among those of the server yet. */
  make(address: EndpointAddress, listensAt: { host: string; port: number }, entrance: Entrance): OPCUAServerEndPoint {
    const endpoint = endpointFor(this.server, this.handlers, listensAt.port, listensAt.host)
    endpoint.setCertificateProvider(this.provider)
    endpoint.on('newChannel', (channel) => {
      this.lastFrom = channel.remoteAddress
      keepInsideIn(channel)
      this.showInside(channel)
      this.came(channel)
    })
    endpoint.addStandardEndpointDescriptions(descriptionsOf(address, entrance))
    endpoint.on('message', (message, channel) => {
      if (isInside(message.request)) this.insides.get(channel)?.tell(false, () => inClear(message.request))
      if (answeredAsUnanswerable(message, channel)) return
      const { auditEntryId } = message.request.requestHeader
      askedFor.run(auditEntryId ?? '', () => lookAt(this.server, asOf(address, message), channel))
    })
    return endpoint
  }

  add(endpoint: OPCUAServerEndPoint) {
    this.open.add(endpoint)
    addEndpoint(this.server, endpoint)
  }

  remove(endpoint: OPCUAServerEndPoint) {
    this.open.delete(endpoint)
    removeEndpoint(this.server, endpoint)
  }

  /** Where somebody with this certificate comes from, as far as a channel shows it. */
  originOf(der: Buffer): string {
    for (const endpoint of this.open)
      for (const channel of endpoint.getChannels())
        if (channel.clientCertificate && Buffer.compare(channel.clientCertificate, der) === 0) return channel.remoteAddress
    return this.lastFrom
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
}

/**
 * The package looks an endpoint up by the address that the client names, whichever connection it came by, and
 * shows all where it finds none. Whoever came by this one gets what it offers, and has to sign in as it asks
 * (OPC 10000-4, 5.5.4.2: the server answers with a suitable default).
 */
const asOf = (address: EndpointAddress, message: { request: object }) => {
  const { request } = message
  if (request instanceof GetEndpointsRequest || request instanceof CreateSessionRequest) request.endpointUrl = endpointUrl(address)
  return message
}

const descriptionsOf = ({ host, path }: EndpointAddress, entrance: Entrance) => ({
  hostname: hostText(host),
  resourcePath: path,
  allowAnonymous: entrance.anonymous,
  userTokenTypes: [
    ...(entrance.anonymous ? [UserTokenType.Anonymous] : []),
    ...(entrance.names ? [UserTokenType.UserName] : []),
    ...(entrance.certificates ? [UserTokenType.Certificate] : []),
  ],
  securityPolicies: entrance.policies.map((policy) => uaPolicy[policy]),
  securityModes: [...(entrance.policies.includes('None') ? [MessageSecurityMode.None] : []), ...entrance.modes.map((mode) => uaMode[mode])],
})

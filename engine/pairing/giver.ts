import { promisify } from 'node:util'
import {
  DataType,
  OPCUAServer,
  StatusCodes,
  Variant,
  type AddressSpace,
  type CallMethodResultOptions,
  type ISessionContext,
  type MethodFunctor,
  type OPCUAServerEndPoint,
  type ServerSecureChannelLayer,
  type ServerSession,
} from 'node-opcua'
import type { Fault } from '#core/faults/catalogue'
import { hostText, type EndpointAddress } from '#core/opcua/endpointAddress'
import type { PartnerFacts } from '#core/pairing/facts'
import { certificateFacts } from '#security/certificateFacts'
import { isPairingProof, pairingProof, pairingUri, type BothFingerprints } from '#security/pairingProof'
import { keyPairOf } from '../opcua/dialling'
import { firstOf } from '../opcua/find'
import { startUnheard, startWithout, stopUnheard } from '../opcua/internals'
import { peerStore } from '../opcua/peerStore'
import { Endpoints } from '../outlets/opcua/endpoints'
import { standardNodes } from '../outlets/opcua/standardNodes'
import { sessionOf } from '../outlets/opcua/guests'
import type { Security } from '../trust/security'
import { requireInterface } from '../wire/interfaces'
import type { Wire } from '../wire/wire'
import { judgeFacts } from './ownFacts'
import type { Partner } from './partner'

export const pairingNamespace = 'urn:keen-conduit:pairing'
/** As this user the copy that takes values signs in; its password is its proof. */
export const pairingUser = 'pairing'

interface Around {
  security: Security
  wire: Wire
  secret: Uint8Array
  ours(): PartnerFacts
  /** Somebody came whose proof is wrong. */
  wrong(from: string): void
  /** The other copy proved that it knows the code. */
  proven(partner: Omit<Partner, 'facts'>): void
  /** Decides for the other copy, for good; the fault that hinders it goes there, too. */
  accept(partner: Partner): Promise<Fault | null>
}

const mostConnections = 8
const entrance = {
  policies: ['Basic256Sha256' as const],
  modes: ['SignAndEncrypt' as const],
  anonymous: false,
  names: true,
  certificates: false,
}

/**
 * An OPC UA server for as long as two copies pair: the one whose values are taken. Whoever proves by its password that it
 * knows the secret may ask for our proof, and then have us decide. Services of the standard only.
 */
export class PairingServer {
  private endpoint: OPCUAServerEndPoint | null = null
  private isHeard = false

  private constructor(
    private server: OPCUAServer,
    private endpoints: Endpoints,
    private around: Around,
  ) {}

  static async start(around: Around): Promise<PairingServer> {
    const { security, wire } = around
    const server = new OPCUAServer({
      endpoints: [],
      maxConnectionsPerEndpoint: mostConnections,
      nodesets: [standardNodes],
      // who it is shows in its proof, which is made for this very certificate
      serverCertificateManager: peerStore(() => StatusCodes.Good),
      userCertificateManager: peerStore(() => StatusCodes.BadIdentityTokenRejected),
      certificateKeyPairProvider: keyPairOf(security.own),
      userManager: { isValidUserAsync: asksProof(around) },
      serverInfo: { applicationName: { text: around.ours().name }, applicationUri: security.own.uri, productUri: pairingNamespace },
      serverCapabilities: { maxSessions: mostConnections, maxSubscriptions: 1 },
    })
    try {
      await server.initialize()
      setOut(server.engine.addressSpace!, around)
      const handlers = await startWithout(server)
      return new PairingServer(server, new Endpoints(server, handlers, keyPairOf(security.own), wire, () => {}), around)
    } catch (error) {
      await server.shutdown(0).catch(() => {})
      throw error
    }
  }

  /** Rejects with the error of the system where the port cannot be had. */
  async listen(place: { interface: string; port: number }, host: string) {
    requireInterface(place)
    const endpoint = this.endpoints.make({ host, port: place.port, path: '' }, { host: place.interface, port: place.port }, entrance)
    await promisify(endpoint.start.bind(endpoint))()
    this.open(endpoint, true)
  }

  /** Opens the connection (OPC 10000-6, 7.1.3); resolves once it is taken up, rejects where it is not within the time. */
  dial({ host, port }: Omit<EndpointAddress, 'path'>, patientMs: number): Promise<void> {
    const endpoint = this.endpoint ?? this.endpoints.make({ host, port, path: '/pairing' }, { host: '127.0.0.1', port: 4840 }, entrance)
    if (!this.endpoint) {
      startUnheard(endpoint)
      this.open(endpoint, false)
    }
    return new Promise((resolve, reject) => {
      const { secret, wire } = this.around
      const options = {
        serverUri: pairingUri(secret),
        endpointUrl: `opc.tcp://${hostText(host)}:${port}/pairing`,
        connectionTimeout: patientMs,
      }
      const socket = endpoint.createReverseConnection(
        `opc.tcp://${hostText(host)}:${port}`,
        options,
        (error: Error | null, channel?: ServerSecureChannelLayer) => (channel ? resolve() : reject(error ?? new Error('closed'))),
      )
      socket?.prependOnceListener('connect', () => wire.attendOne(socket, `${socket.remoteAddress}:${socket.remotePort}`))
    })
  }

  async close() {
    const { endpoint } = this
    if (endpoint) {
      this.endpoints.remove(endpoint)
      if (this.isHeard) {
        endpoint.abruptlyInterruptChannels()
        await promisify(endpoint.shutdown.bind(endpoint))().catch(() => {})
      } else stopUnheard(endpoint)
    }
    await this.server.shutdown(0).catch(() => {})
  }

  private open(endpoint: OPCUAServerEndPoint, isHeard: boolean) {
    this.endpoint = endpoint
    this.isHeard = isHeard
    this.endpoints.add(endpoint)
  }
}

/** Null: the channel shows no certificate that can be read. */
const partnerOf = (session: ServerSession | undefined): Omit<Partner, 'facts'> | null => {
  const channel = session?.channel
  const shown = channel?.clientCertificate
  if (!channel || !shown) return null
  try {
    const der = firstOf(shown)
    return { der, fingerprint: certificateFacts(der).fingerprint, from: channel.remoteAddress }
  } catch {
    return null
  }
}

const fingerprintsWith = ({ security }: Around, partner: Pick<Partner, 'fingerprint'>): BothFingerprints => ({
  gives: security.own.facts.fingerprint,
  takes: partner.fingerprint,
})

/** The package hands the session over as `this`, and wants to be called back. */
const asksProof = (around: Around) =>
  function (this: ServerSession, name: string, password: string, done: (error: Error | null, isIn?: boolean) => void) {
    const partner = partnerOf(this)
    const isIn =
      name === pairingUser && partner !== null && isPairingProof(password, around.secret, 'takes', fingerprintsWith(around, partner))
    if (isIn) around.proven(partner)
    else around.wrong(this.channel?.remoteAddress ?? 'somewhere')
    done(null, isIn)
  }

const text = (value: string) => new Variant({ dataType: DataType.String, value })
const argument = (name: string, description: string) => ({ name, description: { text: description }, dataType: DataType.String })

/** The two methods; only sessions that proved themselves get to them. */
const setOut = (space: AddressSpace, around: Around) => {
  const namespace = space.registerNamespace(pairingNamespace)
  const object = namespace.addObject({ organizedBy: space.rootFolder.objects, browseName: 'Pairing', nodeId: 's=Pairing' })
  const prove = namespace.addMethod(object, {
    browseName: 'Prove',
    nodeId: 's=Prove',
    outputArguments: [argument('Facts', 'What this copy says of itself, JSON.'), argument('Proof', 'HMAC-SHA256, hexadecimal.')],
  })
  prove.bindMethod(
    byPartner((partner) => {
      const proof = pairingProof(around.secret, 'gives', fingerprintsWith(around, partner))
      return Promise.resolve([JSON.stringify(around.ours()), proof])
    }),
  )
  const accept = namespace.addMethod(object, {
    browseName: 'Accept',
    nodeId: 's=Accept',
    inputArguments: [argument('Facts', 'What the copy that takes values says of itself, JSON.')],
    outputArguments: [argument('Problem', 'Empty: decided.'), argument('Next', 'What is to be done about it.')],
  })
  accept.bindMethod(
    byPartner(async (partner, said) => {
      const judged = judgeFacts(said)
      const why = 'fault' in judged ? judged.fault : await around.accept({ ...partner, facts: judged.facts })
      return why ? [why.what, why.next] : ['', '']
    }),
  )
}

type Answers = (partner: Omit<Partner, 'facts'>, said: string) => Promise<string[]>

/** A method whose arguments and results are texts. */
const byPartner =
  (answer: Answers): MethodFunctor =>
  (given, context: ISessionContext, done) => {
    const partner = partnerOf(sessionOf(context))
    if (!partner) return done(null, { statusCode: StatusCodes.BadUserAccessDenied })
    const result = (texts: string[]): CallMethodResultOptions => ({ statusCode: StatusCodes.Good, outputArguments: texts.map(text) })
    answer(partner, String(given[0]?.value ?? '')).then(
      (texts) => done(null, result(texts)),
      (error: Error) => done(error),
    )
  }

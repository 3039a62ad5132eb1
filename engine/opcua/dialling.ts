import { randomInt } from 'node:crypto'
import {
  InMemoryCertificateKeyPairProvider,
  MessageSecurityMode,
  OPCUAClient,
  SecurityPolicy,
  StatusCodes,
  type OPCUAClientOptions,
} from 'node-opcua'
import { makePrivateKeyFromPem } from 'node-opcua-crypto'
import type { Mode, OpcuaSettings, Policy } from '#core/opcua/settings'
import { applicationName, type OwnCertificate } from '#security/ownCertificate'
import type { Inside } from '../wire/tap'
import type { Wire } from '../wire/wire'
import { inClear, isInside, isSecuredMessage } from './inClear'
import { transportsOver, type Transports } from './transports'
import { acceptsAll, peerStore } from './peerStore'
import type { TrustBook } from '../trust/trustBook'

export const uaPolicy: Record<Policy, SecurityPolicy> = {
  None: SecurityPolicy.None,
  Basic256Sha256: SecurityPolicy.Basic256Sha256,
  Aes128_Sha256_RsaOaep: SecurityPolicy.Aes128_Sha256_RsaOaep,
  Aes256_Sha256_RsaPss: SecurityPolicy.Aes256_Sha256_RsaPss,
}
export const uaMode: Record<Mode, MessageSecurityMode> = {
  None: MessageSecurityMode.None,
  Sign: MessageSecurityMode.Sign,
  SignAndEncrypt: MessageSecurityMode.SignAndEncrypt,
}

export const policyFromUri = (uri: string | null): Policy | null =>
  (Object.keys(uaPolicy) as Policy[]).find((policy) => uaPolicy[policy] === uri) ?? null
export const modeFromUa = (mode: MessageSecurityMode): Mode | null =>
  (Object.keys(uaMode) as Mode[]).find((candidate) => uaMode[candidate] === mode) ?? null

export const keyPairOf = (own: OwnCertificate) => new InMemoryCertificateKeyPairProvider([own.der], makePrivateKeyFromPem(own.key))

/** The package ends a connection on which nothing came for so long; between two signs of life nothing need come. */
const quietMs = 15_000

const common = (own: OwnCertificate, patience: OpcuaSettings['patience']): OPCUAClientOptions => ({
  applicationName,
  applicationUri: own.uri,
  clientName: `${applicationName} ${randomInt(1_000_000)}`,
  certificateKeyPairProvider: keyPairOf(own),
  endpointMustExist: false,
  // the first connection is ours to retry, with a diagnosis each time; a break is taken up by `keepTrying`
  connectionStrategy: { maxRetry: 0, initialDelay: patience.retryFirst, maxDelay: patience.retryMost, randomisationFactor: 0.5 },
  transportTimeout: Math.max(patience.answer, quietMs),
  defaultTransactionTimeout: patience.answer,
  requestedSessionTimeout: patience.session,
  // the link asks for a sign of life by itself, so that it knows what the answer was
  keepSessionAlive: false,
})

/** A client for the services that need no security: which servers and endpoints there are. */
export const plainClient = (
  own: OwnCertificate,
  patience: OpcuaSettings['patience'],
  wire: Wire,
  transports: Transports = transportsOver,
): OPCUAClient => OPCUAClient.create({ ...common(own, patience), transportFactory: transports(wire), clientCertificateManager: acceptsAll })

/** A client for the endpoint that was chosen and the certificate that was trusted there; no other will do. */
export const securedClient = (
  own: OwnCertificate,
  trust: Pick<TrustBook, 'verdictOn'>,
  { patience, policy, mode }: Pick<OpcuaSettings, 'patience' | 'policy' | 'mode'>,
  serverCertificate: Buffer | null,
  wire: Wire,
  transports: Transports = transportsOver,
): OPCUAClient => {
  let inside: Inside | null = null
  const client = OPCUAClient.create({
    ...common(own, patience),
    transportFactory: transports(wire, (connection) => {
      if (mode !== 'None') inside = wire.tap.inside(connection, isSecuredMessage)
    }),
    securityMode: uaMode[mode],
    securityPolicy: uaPolicy[policy],
    ...(serverCertificate ? { serverCertificate } : {}),
    clientCertificateManager: peerStore((der) =>
      policy === 'None' || trust.verdictOn(der).kind === 'trusted' ? StatusCodes.Good : StatusCodes.BadCertificateUntrusted,
    ),
  })
  const tell = (out: boolean) => (message: object) => {
    if (isInside(message)) inside?.tell(out, () => inClear(message))
  }
  client.on('send_request', tell(true))
  client.on('receive_response', tell(false))
  return client
}

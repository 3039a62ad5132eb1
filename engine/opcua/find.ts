import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import { UserTokenType, type ApplicationDescription, type EndpointDescription, type OPCUAClient } from 'node-opcua'
import { endpointText, endpointUrl, parseEndpoint, type EndpointAddress } from '#core/opcua/endpointAddress'
import { safestFirst, type Found, type FoundServer, type IdentityKind, type Offer } from '#core/opcua/offers'
import type { OpcuaSettings } from '#core/opcua/settings'
import { certificateFacts } from '#security/certificateFacts'
import type { OwnCertificate } from '#security/ownCertificate'
import { modeFromUa, plainClient, policyFromUri } from './dialling'
import { within } from '#pacing/within'
import type { Wire } from '../wire/wire'
import type { Transports } from './transports'

const tokenKind = new Map<UserTokenType, IdentityKind>([
  [UserTokenType.Anonymous, 'anonymous'],
  [UserTokenType.UserName, 'password'],
  [UserTokenType.Certificate, 'certificate'],
])

/** Asks a host which servers and ways in it knows. Works without any security. */
export const findOffers = async (
  address: EndpointAddress,
  own: OwnCertificate,
  patience: OpcuaSettings['patience'],
  wire: Wire,
  transports?: Transports,
): Promise<Found & { endpoints: EndpointDescription[] }> => {
  const client = plainClient(own, patience, wire, transports)
  try {
    await within(patience.connect + patience.answer, client.connect(endpointUrl(address)))
    const endpoints = await within(patience.answer, client.getEndpoints({ endpointUrl: endpointUrl(address) }))
    const servers = await within(patience.answer, client.findServers()).catch(() => [])
    const offers = await Promise.all(endpoints.map((endpoint) => offerOf(endpoint, address)))
    return {
      endpoints,
      offers: safestFirst(distinct(offers.filter((offer) => offer !== null))),
      servers: servers.map((server) => serverOf(server, endpoints)),
    }
  } finally {
    await hangUp(client)
  }
}

/** A client that cannot say goodbye in time is left to its own time-outs. */
export const hangUp = (client: OPCUAClient): Promise<void> => within(2000, client.disconnect()).catch(() => {})

const offerOf = async (endpoint: EndpointDescription, dialled: EndpointAddress): Promise<Offer | null> => {
  const policy = policyFromUri(endpoint.securityPolicyUri)
  const mode = modeFromUa(endpoint.securityMode)
  const url = endpoint.endpointUrl ?? ''
  if (!policy || !mode || !url.startsWith('opc.tcp:')) return null
  const { serverCertificate } = endpoint
  return {
    policy,
    mode,
    url,
    identities: [...new Set((endpoint.userIdentityTokens ?? []).map(({ tokenType }) => tokenKind.get(tokenType)))].filter(
      (kind) => kind !== undefined,
    ),
    ...(await reachableAs(url, dialled)),
    certificate: serverCertificate?.length
      ? { facts: certificateFacts(firstOf(serverCertificate)), der: firstOf(serverCertificate).toString('base64') }
      : null,
    level: endpoint.securityLevel,
  }
}

/** Servers often name themselves in a way that only they can resolve; the address that answered will do. */
const reachableAs = async (url: string, dialled: EndpointAddress): Promise<Pick<Offer, 'answersAs' | 'note'>> => {
  const parsed = parseEndpoint(url)
  const answered = endpointText({ ...dialled, path: parsed.ok ? parsed.address.path : dialled.path })
  if (!parsed.ok) return { answersAs: answered, note: 'its own address cannot be read, so the one that answered is used' }
  const { host, port } = parsed.address
  if (host.toLowerCase() === dialled.host.toLowerCase()) return { answersAs: endpointText(parsed.address), note: '' }
  if (isIP(host) === 0 && !(await isKnown(host)))
    return { answersAs: answered, note: `${host} is not known to this machine, so the address that answered is used` }
  return port === dialled.port
    ? { answersAs: answered, note: `it calls itself ${host}; the address that answered is used` }
    : { answersAs: endpointText(parsed.address), note: '' }
}

const lookupMs = 1500
const isKnown = (host: string) =>
  within(lookupMs, lookup(host)).then(
    () => true,
    () => false,
  )

/** The same way in under several of its names is offered once. */
const distinct = (offers: Offer[]): Offer[] => {
  const seen = new Set<string>()
  return offers.filter((offer) => {
    const key = `${offer.policy} ${offer.mode} ${offer.answersAs}`
    return !seen.has(key) && seen.add(key)
  })
}

const serverOf = (server: ApplicationDescription, endpoints: EndpointDescription[]): FoundServer => ({
  name: server.applicationName.text ?? server.applicationUri ?? 'unnamed',
  applicationUri: server.applicationUri ?? '',
  addresses: (server.discoveryUrls ?? []).filter((url): url is string => !!url?.startsWith('opc.tcp:')),
  isThisOne: endpoints.some(({ server: own }) => own.applicationUri === server.applicationUri),
})

/** A chain is sent as one; the server's own certificate comes first (OPC 10000-6, 6.2.6). */
export const firstOf = (chain: Buffer): Buffer => {
  const length = chain[1] === 0x82 ? 4 + chain.readUInt16BE(2) : chain.length
  return chain.subarray(0, length)
}

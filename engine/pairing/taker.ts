import { UserTokenType, type ClientSession, type EndpointDescription, type OPCUAClient } from 'node-opcua'
import { fingerprintText } from '#core/certificates/judge'
import { isFault, fault, type Fault } from '#core/faults/catalogue'
import { endpointUrl, type EndpointAddress } from '#core/opcua/endpointAddress'
import { opcuaSettings } from '#core/opcua/settings'
import type { PartnerFacts } from '#core/pairing/facts'
import { duration } from '#core/text/duration'
import { within } from '#pacing/within'
import type { CheckStep } from '#shared/status'
import { certificateFacts } from '#security/certificateFacts'
import { isPairingProof, pairingProof, type BothFingerprints } from '#security/pairingProof'
import { checkSteps } from '../links/checkSteps'
import { modeFromUa, policyFromUri, securedClient } from '../opcua/dialling'
import { findOffers, firstOf, hangUp } from '../opcua/find'
import { neverDials } from '../opcua/internals'
import { channelFault, generalFault, statusIn } from '../opcua/refusals'
import type { Transports } from '../opcua/transports'
import type { Security } from '../trust/security'
import type { Wire } from '../wire/wire'
import { pairingNamespace, pairingUser } from './giver'
import { judgeFacts } from './ownFacts'
import type { Partner } from './partner'

/** What the copy that takes values goes through, from the first connection to the decision over there. */
export const takerSteps = checkSteps({
  theirs: 'Their certificate',
  ours: 'Our proof',
  proof: 'Their proof',
  clocks: 'Version and clock',
  there: 'Decided there',
})

export interface Way {
  address: EndpointAddress
  transports: Transports
  /** The server opens the connections. */
  isAwaited: boolean
  secret: Uint8Array
  /** The beginning of the fingerprint that the code names; null: the code was made here. */
  expected: string | null
  security: Security
  wire: Wire
  ours(): PartnerFacts
}

const patience = opcuaSettings.parse({ address: 'pairing' }).patience
const { waiting, sound, failed, notReached } = takerSteps

/** Pairs with the copy whose values are to be taken; null: it came to nothing, and the last step says why. */
export async function* takePart(way: Way): AsyncGenerator<CheckStep, Partner | null> {
  yield waiting('theirs')
  const found = await caught(way, 'tell its endpoints', () => endpointOf(way))
  if (isFault(found)) return yield* stop('theirs', found)
  const shown = certificateFacts(found.der)
  if (way.expected !== null && !shown.fingerprint.startsWith(way.expected))
    return yield* stop('theirs', fault('pairing.other-machine', way.address, `it shows ${fingerprintText(shown.fingerprint)}`))
  yield sound('theirs', `${shown.name} · ${fingerprintText(shown.fingerprint)}`, null)
  if (!found.takesNames) return yield* stop('ours', fault('pairing.not-awaited', way.address, 'it takes no proof'))
  return yield* signedIn(way, found.der, shown.fingerprint)
}

async function* signedIn(way: Way, der: Buffer, theirs: string): AsyncGenerator<CheckStep, Partner | null> {
  yield waiting('ours')
  const client = clientOf(way, der)
  try {
    const fingerprints = { gives: theirs, takes: way.security.own.facts.fingerprint }
    const session = await caught(way, 'open a session', () => proveOurselves(way, client, fingerprints))
    if (isFault(session)) return yield* stop('ours', session)
    yield sound('ours', 'accepted', null)
    return yield* proven(way, session, { der, fingerprints })
  } finally {
    await hangUp(client)
  }
}

interface Shown {
  der: Buffer
  fingerprints: BothFingerprints
}

async function* proven(way: Way, session: ClientSession, shown: Shown): AsyncGenerator<CheckStep, Partner | null> {
  yield waiting('proof')
  const said = await caught(way, 'prove itself', () => call(session, 'Prove'))
  if (isFault(said)) return yield* stop('proof', said)
  const [facts = '', proof = ''] = said
  if (!isPairingProof(proof, way.secret, 'gives', shown.fingerprints))
    return yield* stop('proof', fault('pairing.proof', { by: 'The other copy' }, proof ? 'its proof is another' : 'it gave none'))
  yield sound('proof', 'it knows the code, and holds this certificate', null)

  const judged = judgeFacts(facts)
  if ('fault' in judged) return yield* stop('clocks', judged.fault)
  const { name, version, now } = judged.facts
  yield sound('clocks', `“${name}”, version ${version}, clock ${apart(now - Date.now())}`, null)

  yield waiting('there')
  const decided = await caught(way, 'decide', () => call(session, 'Accept', JSON.stringify(way.ours())))
  if (isFault(decided)) return yield* stop('there', decided)
  const [problem = '', next = ''] = decided
  if (problem) return yield* stop('there', fault('pairing.there', { name, problem, next }))
  yield sound('there', `“${name}” trusts us`, null)
  const { host, port } = way.address
  return { facts: judged.facts, der: shown.der, fingerprint: shown.fingerprints.gives, from: `${host}:${port}` }
}

type StepName = Parameters<typeof waiting>[0]

function* stop(at: StepName, why: Fault): Generator<CheckStep, null> {
  yield failed(at, why, null)
  yield* notReached(at)
  return null
}

const apart = (ms: number) => (Math.abs(ms) < 1000 ? 'as ours' : `${duration(Math.abs(ms))} ${ms > 0 ? 'ahead' : 'behind'}`)

interface Found {
  der: Buffer
  /** Whether one signs in there by a name and a password, as a proof is given. */
  takesNames: boolean
}

const endpointOf = async ({ address, security, wire, transports }: Way): Promise<Found | Fault> => {
  const { endpoints } = await findOffers(address, security.own, patience, wire, transports)
  const safe = endpoints.find(isSafe)
  if (!safe?.serverCertificate?.length) return fault('pairing.not-awaited', address, `${endpoints.length} ways in, none of them secured`)
  const takesNames = (safe.userIdentityTokens ?? []).some(({ tokenType }) => tokenType === UserTokenType.UserName)
  return { der: firstOf(safe.serverCertificate), takesNames }
}

const isSafe = ({ securityMode, securityPolicyUri }: EndpointDescription) =>
  modeFromUa(securityMode) === 'SignAndEncrypt' && policyFromUri(securityPolicyUri) === 'Basic256Sha256'

/** Only to who shows the certificate that was looked at; whether it may be trusted shows in its proof. */
const clientOf = ({ security, wire, transports, isAwaited }: Way, der: Buffer): OPCUAClient => {
  const trust = { verdictOn: () => ({ kind: 'trusted' as const, despite: [] }) }
  const secured = { patience, policy: 'Basic256Sha256' as const, mode: 'SignAndEncrypt' as const }
  const client = securedClient(security.own, trust, secured, der, wire, transports)
  if (isAwaited) neverDials(client)
  return client
}

const notAwaited = new Set(['BadUserAccessDenied', 'BadIdentityTokenRejected', 'BadIdentityTokenInvalid', 'BadCertificateUntrusted'])

const proveOurselves = async (way: Way, client: OPCUAClient, fingerprints: BothFingerprints): Promise<ClientSession | Fault> => {
  const { connect, answer } = patience
  try {
    await within(connect + answer, client.connect(endpointUrl({ ...way.address, path: way.isAwaited ? '/pairing' : '' })))
  } catch (error) {
    return refusal(way, error) ?? channelFault(error, way.security.own, { ...way.address, answerMs: answer })
  }
  const identity = { userName: pairingUser, password: pairingProof(way.secret, 'takes', fingerprints) }
  try {
    return await within(answer, client.createSession({ type: UserTokenType.UserName, ...identity }))
  } catch (error) {
    const why = refusal(way, error)
    if (why) return why
    throw error
  }
}

const refusal = ({ address }: Way, error: unknown): Fault | null => {
  const status = statusIn(error)
  return status && notAwaited.has(status) ? fault('pairing.not-awaited', address, status) : null
}

/** The texts that a method gives. */
const call = async (session: ClientSession, method: string, ...texts: string[]): Promise<string[]> => {
  const index = (await within(patience.answer, session.readNamespaceArray())).indexOf(pairingNamespace)
  const inputArguments = texts.map((value) => ({ dataType: 'String' as const, value }))
  const asked = { objectId: `ns=${index};s=Pairing`, methodId: `ns=${index};s=${method}`, inputArguments }
  const { statusCode, outputArguments } = await within(decideMs, session.call(asked))
  if (statusCode.isNotGood()) throw new Error(statusCode.name)
  return (outputArguments ?? []).map(({ value }) => String(value ?? ''))
}

/** What is decided there goes into its database first. */
const decideMs = 20_000

/** What it comes to, or the fault that it ended with. */
const caught = async <T>(way: Way, what: string, work: () => Promise<T | Fault>): Promise<T | Fault> => {
  try {
    return await work()
  } catch (error) {
    return isFault(error) ? error : generalFault(error, what, { ...way.address, answerMs: patience.answer })
  }
}

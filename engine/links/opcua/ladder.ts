import {
  MessageSecurityMode,
  UserTokenType,
  type ClientSession,
  type EndpointDescription,
  type OPCUAClient,
  type UserIdentityInfo,
} from 'node-opcua'
import { fingerprintText } from '#core/certificates/judge'
import { fault, type Fault } from '#core/faults/catalogue'
import { endpointUrl, parseEndpoint } from '#core/opcua/endpointAddress'
import { identityText, signInText, tokenFor, type Offer } from '#core/opcua/offers'
import { modeText, type OpcuaSettings } from '#core/opcua/settings'
import type { CheckStep } from '#shared/status'
import { derOf } from '#security/selfSigned'
import { policyFromUri, securedClient } from '../../opcua/dialling'
import { openedSecret } from '../../trust/openedSecret'
import type { Security } from '../../trust/security'
import { within } from '#pacing/within'
import { firstValue } from './firstValue'
import { findOffers, firstOf, hangUp } from '../../opcua/find'
import { neverDials } from '../../opcua/internals'
import type { Wire } from '../../wire/wire'
import { channelFault, generalFault, sessionFault } from '../../opcua/refusals'
import type { Rung } from './ladderSteps'
import { reachByAwaiting, reachByDialling, type Reached } from './reaching'
import { judgeServer } from './trusting'

/** A session that is signed in. */
export interface Opened {
  client: OPCUAClient
  session: ClientSession
  namespaces: string[]
  /** The server's certificate, where the channel is secured. */
  certificate: Buffer | null
  /** Says that no connection to it is wanted any more. */
  leave(): void
}

/**
 * Climbs from the name to the first value, or from our door to it where the server dials: the one way in, for the check and
 * for the link itself, so that a link that does not connect says the same as its check. Returns the session, or null when
 * a step failed; the caller closes it.
 */
export async function* climb(
  settings: OpcuaSettings,
  security: Security,
  signal: AbortSignal,
  wire: Wire,
): AsyncGenerator<CheckStep, Opened | null> {
  const reached = yield* settings.awaits ? reachByAwaiting(settings.awaits, signal) : reachByDialling(settings, signal, wire)
  if (!reached) return null
  const opened = signal.aborted ? null : yield* climbFrom({ settings, security, signal, wire, ...reached })
  if (!opened) reached.leave()
  return opened
}

/** Ends what was climbed to. */
export const leave = async (opened: Opened) => {
  opened.leave()
  await hangUp(opened.client)
}

interface Climb extends Reached {
  settings: OpcuaSettings
  security: Security
  signal: AbortSignal
  wire: Wire
}

async function* climbFrom(way: Climb): AsyncGenerator<CheckStep, Opened | null> {
  const { signal } = way
  const offered = yield* askForOffers(way)
  if (!offered || signal.aborted) return null
  const judged = yield* theirCertificate(way, offered)
  if (!judged.ok || signal.aborted) return null
  const client = yield* openChannel(way, offered.chosen, judged.der)
  if (!client) return null
  const session = yield* signIn(way, offered, client)
  if (!session) return null
  const namespaces = yield* readFirst(way, client, session)
  return namespaces && { client, session, namespaces, certificate: judged.der, leave: way.leave }
}

const dialledBy = ({ address, settings }: Climb) => ({ host: address.host, port: address.port, answerMs: settings.patience.answer })

interface Offered {
  chosen: Offer
  endpoints: EndpointDescription[]
}

async function* askForOffers(way: Climb): AsyncGenerator<CheckStep, Offered | null> {
  const { address, settings, security, steps } = way
  yield steps.waiting('offers')
  const started = performance.now()
  try {
    const { offers, endpoints } = await findOffers(address, security.own, settings.patience, way.wire, way.transports)
    const chosen = choose(offers, settings)
    if (!chosen) return yield* stop(way, 'offers', noEndpoint(offers, settings), since(started))
    yield steps.sound('offers', String(offers.length), since(started))
    return { chosen, endpoints }
  } catch (error) {
    return yield* stop(way, 'offers', generalFault(error, 'tell its endpoints', dialledBy(way)), since(started))
  }
}

/** The secure channel stands only when the far side accepts our certificate. */
async function* openChannel(way: Climb, chosen: Offer, certificate: Buffer | null): AsyncGenerator<CheckStep, OPCUAClient | null> {
  const { address, settings, security, steps } = way
  const { connect, answer } = settings.patience
  yield steps.waiting('ours')
  const started = performance.now()
  const client = securedClient(security.own, security.trust, settings, certificate, way.wire, way.transports)
  if (settings.awaits) neverDials(client)
  try {
    await within(connect + answer + way.dialMs, client.connect(endpointUrl({ ...address, path: pathOf(chosen) })))
  } catch (error) {
    await hangUp(client)
    return yield* stop(way, 'ours', channelFault(error, security.own, dialledBy(way)), since(started))
  }
  const accepted = settings.policy === 'None' ? 'not asked for' : `accepted, ${settings.policy}, ${modeText[settings.mode]}`
  yield steps.sound('ours', accepted, since(started))
  return client
}

async function* signIn(way: Climb, offered: Offered, client: OPCUAClient): AsyncGenerator<CheckStep, ClientSession | null> {
  const { settings, security, steps } = way
  yield steps.waiting('signin')
  const started = performance.now()
  const identity = inClear(settings, offered) ?? identityOf(settings, offered.chosen, security)
  if ('fault' in identity) {
    await hangUp(client)
    return yield* stop(way, 'signin', identity.fault, since(started))
  }
  try {
    const session = await within(settings.patience.answer, client.createSession(identity.info))
    yield steps.sound('signin', `as ${identity.text}`, since(started))
    return session
  } catch (error) {
    await hangUp(client)
    return yield* stop(way, 'signin', sessionFault(error, identity.text, security.own, dialledBy(way)), since(started))
  }
}

async function* readFirst(way: Climb, client: OPCUAClient, session: ClientSession): AsyncGenerator<CheckStep, string[] | null> {
  yield way.steps.waiting('value')
  const started = performance.now()
  const first = await within(way.settings.patience.answer, firstValue(session)).catch((error: unknown) => ({
    fault: generalFault(error, 'read its state', dialledBy(way)),
  }))
  if ('fault' in first) {
    await hangUp(client)
    return yield* stop(way, 'value', first.fault, since(started))
  }
  yield way.steps.sound('value', first.evidence, since(started), { farSide: first.farSide })
  return first.namespaces
}

const since = (started: number) => performance.now() - started

function* stop({ steps }: Climb, at: Rung, why: Fault, ms: number | null): Generator<CheckStep, null> {
  yield steps.failed(at, why, ms)
  yield* steps.notReached(at)
  return null
}

const choose = (offers: readonly Offer[], { policy, mode }: OpcuaSettings) =>
  offers.find((offer) => offer.policy === policy && offer.mode === mode) ?? null

const noEndpoint = (offers: readonly Offer[], { policy, mode }: OpcuaSettings) => {
  const offered = [...new Set(offers.map((offer) => (offer.policy === 'None' ? 'None' : `${offer.policy} (${modeText[offer.mode]})`)))]
  return fault('opcua.no-endpoint', { policy, mode: modeText[mode], offered: offered.join(', ') }, `${offers.length} ways in offered`)
}

const pathOf = (offer: Offer) => {
  const parsed = parseEndpoint(offer.url)
  return parsed.ok ? parsed.address.path : ''
}

type Judgement = { ok: true; der: Buffer | null } | { ok: false }

/** An unsecured channel shows no certificate, so none is judged. */
async function* theirCertificate(way: Climb, { chosen, endpoints }: Offered): AsyncGenerator<CheckStep, Judgement> {
  const { settings, security, steps } = way
  if (settings.policy === 'None') {
    yield steps.sound('theirs', 'not needed: nothing is signed on this way in', null)
    return { ok: true, der: null }
  }
  const endpoint = endpoints.find(({ endpointUrl: url }) => url === chosen.url)
  const der = endpoint?.serverCertificate?.length ? firstOf(endpoint.serverCertificate) : null
  if (!der) {
    yield* stop(way, 'theirs', fault('certificate.unreadable', { what: 'certificate' }, 'the endpoint came without a certificate'), null)
    return { ok: false }
  }
  const named = way.named(endpoint?.server.applicationUri ?? null)
  const { shown, fault: why } = judgeServer(der, { ...named, paired: settings.paired }, security.trust)
  if (why) {
    yield steps.failed('theirs', why, null, { certificate: shown })
    yield* steps.notReached('theirs')
    return { ok: false }
  }
  yield steps.sound('theirs', `${shown.facts.name}, trusted · ${fingerprintText(shown.facts.fingerprintSha1).slice(0, 11)}…`, null, {
    certificate: shown,
  })
  return { ok: true, der }
}

/** Over an unsecured channel a password is readable unless its token has a policy of its own (OPC 10000-4, 7.41). */
const inClear = ({ policy, identity }: OpcuaSettings, { chosen, endpoints }: Offered): { fault: Fault } | null => {
  if (policy !== 'None' || identity.kind !== 'password' || identity.inClear) return null
  const endpoint = endpoints.find(({ endpointUrl: url, securityMode }) => url === chosen.url && securityMode === MessageSecurityMode.None)
  const token = endpoint?.userIdentityTokens?.find(({ tokenType }) => tokenType === UserTokenType.UserName)
  const isEncrypted = !!token?.securityPolicyUri && policyFromUri(token.securityPolicyUri) !== 'None'
  return isEncrypted ? null : { fault: fault('opcua.password-in-clear', { user: identity.user }, 'policy None, and the token’s, too') }
}

type SignIn = { info: UserIdentityInfo; text: string } | { fault: Fault }

const identityOf = ({ identity }: OpcuaSettings, offer: Offer, { seal, own }: Security): SignIn => {
  if (offer.identities.length > 0 && !offer.identities.includes(tokenFor(identity.kind))) {
    const offered = offer.identities.map((kind) => identityText[kind]).join(', ')
    return { fault: fault('opcua.identity-not-offered', { wanted: signInText[identity.kind], offered }) }
  }
  try {
    if (identity.kind === 'anonymous') return { info: { type: UserTokenType.Anonymous }, text: 'anonymous' }
    if (identity.kind === 'password')
      return {
        info: { type: UserTokenType.UserName, userName: identity.user, password: openedSecret(identity.password, seal) },
        text: identity.user,
      }
    if (identity.kind === 'ours')
      return {
        info: { type: UserTokenType.Certificate, certificateData: own.der, privateKey: own.key },
        text: 'ourselves, by our certificate',
      }
    const info = {
      type: UserTokenType.Certificate as const,
      certificateData: derOf(identity.certificate),
      privateKey: openedSecret(identity.key, seal),
    }
    return { info, text: 'the holder of our user certificate' }
  } catch (error) {
    return { fault: fault('opcua.identity-unreadable', {}, (error as Error).message) }
  }
}

import { fault } from '#core/faults/catalogue'
import { pairingUri } from '#security/pairingProof'
import type { CodeDraft } from '#shared/pairing'
import { serverDoors, type HeldDoor, type ServerCall } from '../opcua/serverDoors'
import { transportsFrom } from '../opcua/transports'
import { Wire } from '../wire/wire'
import { makeLinkTo } from './made'
import type { Offer } from './offer'
import { factsOf } from './ownFacts'
import { saved, settle } from './settling'
import type { Surroundings } from './surroundings'
import { takePart } from './taker'
import { isFault } from '#core/faults/catalogue'

type Draft = Extract<CodeDraft, { values: 'to-maker' }>

/** The other copy dials once more for each step that asks for a connection of its own. */
const dialAgainMs = 15_000
const pauseMs = 1000

/** Rejects where the door cannot be opened; then nobody can come by the offer. */
export const awaitGiver = async (offer: Offer, draft: Draft, around: Surroundings) => {
  const door = await serverDoors.open(draft)
  void attempts(offer, draft, around, door).finally(() => door.close())
}

const attempts = async (offer: Offer, draft: Draft, around: Surroundings, door: HeldDoor) => {
  while (offer.isOpen) {
    const call = await door.next(pairingUri(offer.secret), offer.signal).catch(() => null)
    if (!call) return
    await attempt(offer, draft, around, { door, call })
    if (offer.isOpen) await new Promise((resolve) => setTimeout(resolve, pauseMs))
  }
}

const attempt = async (offer: Offer, draft: Draft, around: Surroundings, { door, call }: { door: HeldDoor; call: ServerCall }) => {
  const wire = new Wire()
  const left = new AbortController()
  let unused: ServerCall | null = call
  const next = async () => {
    const taken = unused
    unused = null
    if (taken && !taken.socket.destroyed) return taken
    return door.next(pairingUri(offer.secret), AbortSignal.any([left.signal, AbortSignal.timeout(dialAgainMs)]))
  }
  const [host, port] = [call.from.slice(0, call.from.lastIndexOf(':')), Number(call.from.slice(call.from.lastIndexOf(':') + 1))]
  const ours = factsOf(around)
  const part = { address: { host, port, path: '/pairing' }, transports: transportsFrom(next), isAwaited: true, expected: null }
  try {
    offer.begin()
    const walk = takePart({ ...part, secret: offer.secret, security: around.security, wire, ours })
    let went = await walk.next()
    while (!went.done) {
      offer.step(went.value)
      went = await walk.next()
    }
    if (went.value) await decide(offer, draft, around, went.value)
  } catch (error) {
    offer.open(isFault(error) ? error : fault('pairing.slow', { what: 'An answer', seconds: dialAgainMs / 1000 }, (error as Error).message))
  } finally {
    left.abort()
    ;(unused as ServerCall | null)?.socket.destroy()
    wire.close()
  }
}

const decide = async (offer: Offer, draft: Draft, around: Surroundings, partner: Parameters<Offer['found']>[0]) => {
  offer.found(partner)
  const way = { await: { interface: draft.interface, port: draft.port } }
  const made = await saved(around, makeLinkTo({ db: around.db, who: offer.by }, partner, way, draft.take))
  if (isFault(made)) return offer.end('failed', made)
  const why = await settle(around, made, partner.facts.name, new AbortController().signal)
  if (why) offer.end('failed', why)
  else offer.done(made)
}

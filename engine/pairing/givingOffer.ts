import { fault, isFault, type Fault } from '#core/faults/catalogue'
import type { CodeDraft } from '#shared/pairing'
import { Wire } from '../wire/wire'
import { PairingServer } from './giver'
import { makeOutletFor } from './made'
import type { Offer } from './offer'
import { factsOf } from './ownFacts'
import type { Partner } from './partner'
import { saved, settle } from './settling'
import type { Surroundings } from './surroundings'

type Draft = Extract<CodeDraft, { values: 'from-maker' }>

/** So long the last answer may take to get through; then the outlet needs the port. */
const goodbyeMs = 1000

/** Rejects where the door cannot be opened; then nobody can come by the offer. */
export const awaitTaker = async (offer: Offer, draft: Draft, around: Surroundings) => {
  const wire = new Wire()
  const { security } = around
  let isDeciding = false
  const accept = async (partner: Partner): Promise<Fault | null> => {
    if (isDeciding || !offer.isOpen) return fault('pairing.not-awaited', draft)
    isDeciding = true
    offer.found(partner)
    const way = { listen: { interface: draft.interface, port: draft.port } }
    const made = await saved(around, makeOutletFor({ db: around.db, who: offer.by }, partner, way, draft.give))
    if (isFault(made)) {
      isDeciding = false
      offer.open(made)
      return made
    }
    setTimeout(() => void close(), goodbyeMs)
    void settle(around, made, partner.facts.name, new AbortController().signal).then((why) =>
      why ? offer.end('failed', why) : offer.done(made),
    )
    return null
  }
  const server = await PairingServer.start({
    ...{ security, wire, secret: offer.secret, accept },
    ours: factsOf(around),
    wrong: (from) => offer.wrong(from),
    proven: () => offer.begin(),
  })
  const giveBack = await borrowed(draft, around)
  let isClosed = false
  const close = async () => {
    if (isClosed) return
    isClosed = true
    await server.close()
    wire.close()
    giveBack()
  }
  offer.signal.addEventListener('abort', () => void close(), { once: true })
  try {
    await server.listen(draft, draft.host)
  } catch (error) {
    await close()
    throw error
  }
}

/** An outlet that pairs again listens at the very place where the other copy is awaited now. */
const borrowed = async ({ give: { again } }: Draft, { engine, journal }: Surroundings): Promise<() => void> => {
  const outlet = again === null ? undefined : engine.outlet(again)
  if (!outlet?.isOpen) return () => {}
  journal.note(outlet.name, 'Nothing goes out here while a pairing code for it is open.')
  return outlet.lend('Nothing goes out while a pairing code for it is open')
}

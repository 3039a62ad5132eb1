import { fault, type Fault } from '#core/faults/catalogue'
import { readPairingText } from '#core/pairing/code'
import type { CodeDraft, PairingOffer, Redeemed } from '#shared/pairing'
import type { CheckStep } from '#shared/status'
import { doorFault } from '../outlets/doors/place'
import { awaitTaker } from './givingOffer'
import { Offer } from './offer'
import { giveBy, takeBy } from './redeeming'
import type { Surroundings } from './surroundings'
import { awaitGiver } from './takingOffer'

const mostOpen = 10
const mostKept = 30

/** Where codes are made and redeemed. Codes live as long as this process: nobody comes by one of before. */
export class PairingDesk {
  private offers: Offer[] = []
  private made = 0

  constructor(private around: Surroundings) {}

  /** Makes a code, and awaits the other copy. */
  async make(draft: CodeDraft, by: string): Promise<PairingOffer | Fault> {
    if (this.offers.filter(({ isOpen }) => isOpen).length >= mostOpen) return fault('pairing.most', { most: mostOpen })
    const { security, journal } = this.around
    const offer = new Offer(++this.made, draft, by, security.own.facts.fingerprint, (what) => journal.caution('Pairing', what))
    try {
      if (draft.values === 'to-maker') await awaitGiver(offer, draft, this.around)
      else await awaitTaker(offer, draft, this.around)
    } catch (error) {
      offer.end('withdrawn')
      return doorFault(draft, error as Error & { code?: string })
    }
    journal.note('Pairing', `${by} made a pairing code for ${draft.host}, good for ${draft.minutes} min.`)
    this.offers = [...this.offers.slice(-(mostKept - 1)), offer]
    return offer.look()
  }

  /** The newest first. */
  list(): PairingOffer[] {
    return this.offers.map((offer) => offer.look()).reverse()
  }

  /** Whether there is such a code. */
  withdraw(id: number): boolean {
    const offer = this.offers.find((one) => one.id === id)
    offer?.end('withdrawn', null)
    return offer !== undefined
  }

  /** Why nothing is to be had by a code, as far as that shows before anybody is asked; null: it may do. */
  problemWith(text: string): Fault | null {
    const read = readPairingText(text)
    if (!read.ok) return fault('pairing.code', { problem: read.problem })
    const { fingerprint } = this.around.security.own.facts
    return fingerprint.startsWith(read.code.fingerprint) ? fault('pairing.itself', {}) : null
  }

  /** Pairs by the code of another copy, step by step. */
  async *redeem({ code: text, take, give }: Redeemed, who: string, signal: AbortSignal): AsyncGenerator<CheckStep> {
    const read = readPairingText(text)
    if (!read.ok) return
    const work = { code: read.code, who, around: this.around, signal }
    yield* read.code.purpose === 'to-maker' ? giveBy(work, give) : takeBy(work, take)
  }

  close() {
    for (const offer of this.offers) offer.end('withdrawn', null)
  }
}

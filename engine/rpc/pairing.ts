import { fault, isFault } from '#core/faults/catalogue'
import { codeDraft, redeemed, type PairingOffer } from '#shared/pairing'
import type { PairingApi } from '#shared/pairingApi'
import type { Answer } from '#shared/rpc'
import type { Journal } from '../journal/journal'
import type { PairingDesk } from '../pairing/desk'
import { JournalFunctions } from './journal'
import type { ThingParts } from './things'

/** What one web side may ask of the desk at which copies pair. */
export class PairingFunctions extends JournalFunctions implements PairingApi {
  constructor(
    things: ThingParts,
    journal: Journal,
    private desk: PairingDesk,
  ) {
    super(things, journal)
  }

  makePairingCode = async (draft: unknown, by: string): Promise<Answer<PairingOffer>> => {
    const made = await this.desk.make(codeDraft.parse(draft), by)
    return isFault(made) ? { ok: false, fault: made } : { ok: true, value: made }
  }

  pairingCodes = () => this.desk.list()

  withdrawPairingCode = (id: number): Answer<null> =>
    this.desk.withdraw(id) ? { ok: true, value: null } : { ok: false, fault: fault('entry.gone', { thing: 'pairing code', id }) }

  pairingCodeProblem = (code: string) => this.desk.problemWith(code)

  pair = async (work: string, given: unknown, by: string): Promise<Answer<null>> => {
    await this.work.bring(work, (signal) => this.desk.redeem(redeemed.parse(given), by, signal))
    return { ok: true, value: null }
  }
}

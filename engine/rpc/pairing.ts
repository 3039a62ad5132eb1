import { fault, isFault } from '#core/faults/catalogue'
import { codeDraft, redeemed, type PairingOffer } from '#shared/pairing'
import type { PairingApi } from '#shared/pairingApi'
import type { Answer } from '#shared/rpc'
import type { PairingDesk } from '../pairing/desk'
import type { LongWork } from './longWork'
import { MeasuringFunctions } from './measuring'

interface Parts {
  desk: PairingDesk
  longWork: LongWork
  measured: ConstructorParameters<typeof MeasuringFunctions>[0]
}

/** What one web side may ask of the desk at which copies pair. */
export class PairingFunctions extends MeasuringFunctions implements PairingApi {
  constructor(private pairing: Parts) {
    super(pairing.measured)
  }

  makePairingCode = async (draft: unknown, by: string): Promise<Answer<PairingOffer>> => {
    const made = await this.pairing.desk.make(codeDraft.parse(draft), by)
    return isFault(made) ? { ok: false, fault: made } : { ok: true, value: made }
  }

  pairingCodes = () => this.pairing.desk.list()

  withdrawPairingCode = (id: number): Answer<null> =>
    this.pairing.desk.withdraw(id) ? { ok: true, value: null } : { ok: false, fault: fault('entry.gone', { thing: 'pairing code', id }) }

  pairingCodeProblem = (code: string) => this.pairing.desk.problemWith(code)

  pair = async (work: string, given: unknown, by: string): Promise<Answer<null>> => {
    const { desk, longWork } = this.pairing
    await longWork.bring(work, (signal) => desk.redeem(redeemed.parse(given), by, signal))
    return { ok: true, value: null }
  }
}

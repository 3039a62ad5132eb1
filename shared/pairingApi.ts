import type { Fault } from '#core/faults/catalogue'
import type { CodeDraft, PairingOffer, Redeemed } from './pairing'
import type { Answer } from './rpc'

/** What the web side asks of the desk at which copies pair. */
export interface PairingApi {
  makePairingCode(draft: CodeDraft, by: string): Promise<Answer<PairingOffer>>
  /** Those that were made since the engine started, the newest first. */
  pairingCodes(): PairingOffer[]
  withdrawPairingCode(id: number): Answer<null>
  /** Why nothing is to be had by a code, as far as that shows here; null: it may do. */
  pairingCodeProblem(code: string): Fault | null
  /** Its steps arrive through `part`, in order. */
  pair(work: string, given: Redeemed, by: string): Promise<Answer<null>>
}

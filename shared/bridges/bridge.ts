import { z } from 'zod'
import { bridgeContract, type BridgeDraft } from '#core/bridges/settings'
import { idField, savedShape } from '#core/contracts/fields'

/** A saved bridge. `revision` is the site revision that last changed it. */
export interface Bridge extends BridgeDraft {
  id: number
  revision: number
}
export const savedBridge: z.ZodType<Bridge> = bridgeContract.extend(savedShape).meta({ id: 'Bridge' })

/** Changes name the revision they started from, so that two people cannot overwrite each other unseen. */
export const bridgeChange = z.object({ revision: idField('A revision'), bridge: bridgeContract })

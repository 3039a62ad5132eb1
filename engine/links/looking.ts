import type { Fault } from '#core/faults/catalogue'

/** Why a place could not be looked into, in the words of the catalogue. */
export class LookingFault extends Error {
  constructor(readonly why: Fault) {
    super(why.what)
  }
}

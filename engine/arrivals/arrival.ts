import type { RunOutcome } from '#core/bridges/run'
import type { Fault } from '#core/faults/catalogue'

/** Ends once it is kept, or nothing comes of it: then with why, where that is known. */
export type Keeping = Promise<Fault | undefined | void>

/** A message that came from the far side. Unlike a sample it stands for itself: an equal one after it is another one. */
export interface Arrival {
  topic: string
  payload: Uint8Array
  /** When it came here, Unix milliseconds. */
  at: number
  /** When the far side says it was made; absent: it does not say. */
  sourceTime?: number
  /** Takes what has to come about before the far side is told that we have it; absent: it does not ask. */
  waits?: Keeping[]
  /** Takes what becomes of it at the far ends; absent: nobody wants to know. */
  outcomes?: Promise<RunOutcome>[]
  /** It was kept by the far side for those who come later, and may be old. */
  retained?: boolean
}

/**
 * Somebody who wants messages. `take` runs while the source goes on: it only takes note, and works at its own pace.
 *
 * @example
 * const done = arrivals.claim({ by: 'tag berth/1/power', topic: 'berth/1/power', take: ({ payload }) => … })
 */
export interface Claim {
  /** For the journal, where it goes wrong. */
  by: string
  /** One topic by its name, or whichever a test lets through. */
  topic: string | ((topic: string) => boolean)
  take(arrival: Arrival): void
}

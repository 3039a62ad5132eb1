import type { Occasion, RunOutcome } from '#core/bridges/run'
import type { Fault } from '#core/faults/catalogue'
import type { Verdict } from '../links/receiving'
import type { Offered } from './delivery'

/** Nothing came of what set a bridge off. */
export const letGo = ({ settled, ended }: Occasion, why: Fault | null) => {
  settled?.(why ?? undefined)
  ended?.({ state: 'nothing', why })
}

/** Has whoever waits be told once the last record is kept, and once it is known what became of each. @param why what could not be shaped */
export const followOffers = (offers: readonly { record: Offered }[], { settled, ended }: Occasion, why: Fault | null) => {
  if (settled) whenAllKept(offers, () => settled(why ?? undefined))
  if (ended) whenAllTold(offers, why, ended)
}

const whenAllKept = (offers: readonly { record: Offered }[], kept: () => void) => {
  let left = offers.length
  if (left === 0) return kept()
  for (const { record } of offers)
    record.stored = () => {
      if (--left === 0) kept()
    }
}

const worse = ['delivered', 'kept', 'dropped', 'refused', 'nothing'] as const

const whenAllTold = (offers: readonly { record: Offered }[], why: Fault | null, ended: (outcome: RunOutcome) => void) => {
  let outcome: RunOutcome = { state: why ? 'nothing' : 'delivered', why }
  let left = offers.length
  if (left === 0) return ended(outcome)
  for (const { record } of offers) {
    const before = record.told
    let isTold = false
    record.told = (verdict) => {
      before?.(verdict)
      if (isTold) return
      isTold = true
      const its = outcomeOf(verdict)
      if (worse.indexOf(its.state) > worse.indexOf(outcome.state)) outcome = its
      if (--left === 0) ended(outcome)
    }
  }
}

const outcomeOf = (verdict: Verdict | 'kept' | 'dropped'): RunOutcome => {
  if (verdict === null) return { state: 'delivered', why: null }
  return typeof verdict === 'string' ? { state: verdict, why: null } : { state: 'refused', why: verdict }
}

/** What holds until some day: certificates, tokens of programs, links of wall screens. */

export interface Ending {
  kind: 'own certificate' | 'trusted certificate' | 'authority' | 'token' | 'wall screen'
  name: string
  /** Where its page is. */
  place: string
  from: number
  until: number
  /** When it was used last; null: never, or that is not noted. */
  usedAt: number | null
}

const dayMs = 86_400_000
/** So long before it is told; of something that holds for a short while, in its last third. */
const toldBeforeMs = 60 * dayMs
const toldShare = 1 / 3
/** So long after its end a token that was in use is still told of. */
const toldAfterMs = 14 * dayMs

/** Whether it is time to say that it ends, or that it ended. */
export const isToldAt = ({ kind, from, until, usedAt }: Ending, now: number): boolean => {
  if (until - now > Math.min(toldBeforeMs, (until - from) * toldShare)) return false
  if (until >= now || (kind !== 'token' && kind !== 'wall screen')) return true
  // who let it end did so on purpose, unless something still comes with it
  return usedAt !== null && until - usedAt < toldAfterMs && now - until < toldAfterMs
}

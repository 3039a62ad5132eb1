import type { UnclaimedStatus } from '#shared/arrivals'
import type { Arrival, Claim } from './arrival'
import { Unclaimed } from './unclaimed'

/** Who takes a topic is remembered for so many of them. */
const mostRemembered = 20_000

/**
 * The messages of one source: each is handed once to everybody who claims its topic, also when it equals the one
 * before; what nobody claims is counted and shown. A claimant that fails stops no other.
 */
export class ArrivalBook {
  private named = new Map<string, Set<Claim>>()
  private tests = new Set<Claim & { topic: (topic: string) => boolean }>()
  private remembered = new Map<string, readonly Claim[]>()
  private unclaimed = new Unclaimed()
  private told = new WeakSet<Claim>()
  /** Messages since the start. */
  arrived = 0

  constructor(private tell: (problem: string) => void) {}

  /** Returns how to let go of the claim. */
  claim(claim: Claim): () => void {
    const { topic } = claim
    const claims = typeof topic === 'string' ? this.claimsNamed(topic) : (this.tests as Set<Claim>)
    claims.add(claim)
    this.changed()
    return () => {
      claims.delete(claim)
      if (typeof topic === 'string' && claims.size === 0 && this.named.get(topic) === claims) this.named.delete(topic)
      this.changed()
    }
  }

  hand(arrival: Arrival) {
    this.arrived++
    const claims = this.claimsOf(arrival.topic)
    if (claims.length === 0) return this.unclaimed.note(arrival)
    for (const claim of claims) this.give(claim, arrival)
  }

  /** What nobody claims now, the busiest first. */
  list(): UnclaimedStatus {
    return this.unclaimed.list()
  }

  private claimsNamed(topic: string): Set<Claim> {
    const known = this.named.get(topic) ?? new Set()
    this.named.set(topic, known)
    return known
  }

  /** What was remembered of topics may be wrong now; what is claimed by now is no longer shown as nobody’s. */
  private changed() {
    this.remembered.clear()
    this.unclaimed.forget((topic) => this.claimsOf(topic).length > 0)
  }

  private claimsOf(topic: string): readonly Claim[] {
    const known = this.remembered.get(topic)
    if (known) return known
    const claims = [...(this.named.get(topic) ?? []), ...[...this.tests].filter((claim) => claim.topic(topic))]
    if (this.remembered.size >= mostRemembered) this.remembered.delete(this.remembered.keys().next().value!)
    this.remembered.set(topic, claims)
    return claims
  }

  private give(claim: Claim, arrival: Arrival) {
    try {
      claim.take(arrival)
    } catch (error) {
      if (this.told.has(claim)) return
      this.told.add(claim)
      this.tell(`A message on ${arrival.topic} could not be taken by ${claim.by}: ${(error as Error).message}. It is told this once.`)
    }
  }
}

import type { Arrival, Claim } from './arrival'
import type { ArrivalBook } from './arrivalBook'

/**
 * The way of one session to the messages of its link. Once it is shut, what that session still hears reaches
 * nobody, and its claims are gone.
 */
export class ArrivalDoor {
  private isOpen = true
  private claims = new Set<() => void>()

  constructor(private book: ArrivalBook) {}

  hand(arrival: Arrival) {
    if (this.isOpen) this.book.hand(arrival)
  }

  claim(claim: Claim): () => void {
    const letGo = this.book.claim(claim)
    const done = () => {
      this.claims.delete(done)
      letGo()
    }
    this.claims.add(done)
    return done
  }

  shut() {
    this.isOpen = false
    for (const done of [...this.claims]) done()
  }
}

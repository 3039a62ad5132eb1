import type { BridgeDraft } from '#core/bridges/settings'
import type { Offer } from './bridgeRunner'

/** Bursts become one: what comes within a time, or up to a number, is handed over together. */
export class Gathering {
  private offers: Offer[] = []
  private runs = 0
  private timer: NodeJS.Timeout | null = null

  constructor(
    private limits: NonNullable<BridgeDraft['gather']>,
    private handOver: (offers: readonly Offer[]) => void,
  ) {}

  add(offers: readonly Offer[]) {
    this.offers.push(...offers)
    if (++this.runs >= this.limits.most) return this.now()
    this.timer ??= setTimeout(() => this.now(), this.limits.within)
  }

  /** What is there is handed over. */
  close() {
    this.now()
  }

  private now() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    const { offers } = this
    this.offers = []
    this.runs = 0
    if (offers.length > 0) this.handOver(offers)
  }
}

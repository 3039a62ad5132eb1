import { grouped } from '#core/lists/grouped'
import { steadyNow } from '#pacing/clock'
import { PlanTimer } from '../planTimer'
import { nextBeat, untilDue } from '../roundPoller'
import type { Item } from './item'

/** What shares an interval, as it is asked. */
export interface Round {
  interval: number
  requests: Item[][]
  nextDue: number
  running: boolean
  measuredMs: number | null
}

interface Ways {
  items(): Iterable<Item>
  /** Packs items into requests. */
  plan(items: readonly Item[]): Item[][]
  ask(items: readonly Item[]): Promise<void>
  /** Whether there is anybody to ask. */
  isThere(): boolean
  troubled(error: unknown): void
}

/** What is polled of a device: in rounds, one per interval, planned anew when something joins or goes. */
export class Rounds {
  private rounds = new Map<number, Round>()
  private planning = new PlanTimer(() => this.replan())
  private timer: NodeJS.Timeout | null = null
  private closed = false

  constructor(private ways: Ways) {}

  /** Plans anew; changes that come in a row make one plan. */
  soon() {
    this.planning.soon()
  }

  now() {
    this.planning.now()
  }

  /** All of them, or that of one interval, are due at once. */
  hasten(interval?: number) {
    for (const round of this.rounds.values()) if (interval === undefined || round.interval === interval) round.nextDue = 0
  }

  get inOrder(): Round[] {
    return [...this.rounds.values()].sort((a, b) => a.interval - b.interval)
  }

  /** Those that take longer than their interval. */
  get slow(): (Round & { measuredMs: number })[] {
    return this.inOrder.filter(
      (round): round is Round & { measuredMs: number } => round.measuredMs !== null && round.measuredMs > round.interval,
    )
  }

  close() {
    this.closed = true
    this.planning.close()
    if (this.timer) clearTimeout(this.timer)
  }

  private replan() {
    if (this.closed) return
    const polled = [...this.ways.items()].filter(({ isPolled }) => isPolled)
    const byInterval = grouped(polled, ({ interval }) => interval)
    for (const interval of [...this.rounds.keys()]) if (!byInterval.has(interval)) this.rounds.delete(interval)
    for (const [interval, items] of byInterval) {
      const round = this.rounds.get(interval) ?? { interval, requests: [], nextDue: 0, running: false, measuredMs: null }
      round.requests = this.ways.plan(items)
      if (items.some(({ last, fault: why }) => last === null && why === null)) round.nextDue = 0
      this.rounds.set(interval, round)
    }
    this.schedule()
  }

  private schedule() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.closed || !this.ways.isThere()) return
    const ms = untilDue(this.rounds.values())
    if (ms !== null) this.timer = setTimeout(() => this.runDue(), ms)
  }

  private runDue() {
    const now = steadyNow()
    for (const round of this.rounds.values()) if (!round.running && round.nextDue <= now) void this.run(round, now)
    this.schedule()
  }

  private async run(round: Round, now: number) {
    round.running = true
    round.nextDue = nextBeat(round, now)
    const started = performance.now()
    const requests = round.requests
      .map((items) => items.filter(({ restUntil, isPolled, targets }) => restUntil <= now && isPolled && targets.length > 0))
      .filter((items) => items.length > 0)
    try {
      await Promise.all(requests.map((items) => this.ways.ask(items)))
      if (requests.length > 0) round.measuredMs = performance.now() - started
    } catch (error) {
      this.ways.troubled(error)
    }
    round.running = false
    this.schedule()
  }
}

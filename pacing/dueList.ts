import { steadyNow } from './clock'

const tickMs = 50
/** What the clock is brought right by between two looks is no jump. */
const leastJumpMs = 1000

/**
 * Many moments at which something is due, looked after by one timer: each is told within 50 ms after it. One moment for
 * each thing; a later call replaces the one before. Where the clock of the machine is set meanwhile, as much time goes by as was meant.
 */
export class DueList<T> {
  private slots = new Map<number, Set<T>>()
  private slotOf = new Map<T, number>()
  private timer: NodeJS.Timeout | null = null
  private looked = 0
  private seen = { clock: 0, steady: 0 }

  constructor(private tell: (due: T[], now: number) => void) {}

  /** @param at Unix ms */
  add(thing: T, at: number) {
    if (this.timer) this.followClock()
    const slot = Math.max(Math.ceil(at / tickMs), this.looked + 1)
    if (this.slotOf.get(thing) === slot) return
    this.cancel(thing)
    this.slotOf.set(thing, slot)
    const things = this.slots.get(slot)
    if (things) things.add(thing)
    else this.slots.set(slot, new Set([thing]))
    this.run()
  }

  cancel(thing: T) {
    const slot = this.slotOf.get(thing)
    if (slot === undefined) return
    this.slotOf.delete(thing)
    const things = this.slots.get(slot)!
    things.delete(thing)
    if (things.size === 0) this.slots.delete(slot)
  }

  get size() {
    return this.slotOf.size
  }

  close() {
    this.rest()
    this.slots.clear()
    this.slotOf.clear()
  }

  private run() {
    if (this.timer) return
    this.seen = { clock: Date.now(), steady: steadyNow() }
    this.looked = Math.floor(this.seen.clock / tickMs)
    this.timer = setInterval(() => this.look(), tickMs)
    this.timer.unref()
  }

  private rest() {
    if (this.timer) clearInterval(this.timer)
    this.timer = null
    this.looked = 0
  }

  private look() {
    this.followClock()
    const now = Date.now()
    const until = Math.floor(now / tickMs)
    const due = this.takeUntil(until)
    this.looked = Math.max(this.looked, until)
    if (due.length > 0) this.tell(due, now)
    if (this.size === 0) this.rest()
  }

  /** Where the clock was set, all that waits is moved by as much. */
  private followClock() {
    const now = { clock: Date.now(), steady: steadyNow() }
    const by = now.clock - this.seen.clock - (now.steady - this.seen.steady)
    this.seen = now
    if (Math.abs(by) < leastJumpMs) return
    const moved = Math.round(by / tickMs)
    this.looked += moved
    this.slots = new Map([...this.slots].map(([slot, things]) => [slot + moved, things]))
    for (const [thing, slot] of this.slotOf) this.slotOf.set(thing, slot + moved)
  }

  /** Where the process stood still, the slots between are looked for among those that are there. */
  private takeUntil(until: number): T[] {
    const steps = until - this.looked
    const slots = steps <= this.slots.size ? range(this.looked + 1, steps) : [...this.slots.keys()].filter((slot) => slot <= until)
    return slots.flatMap((slot) => this.take(slot))
  }

  private take(slot: number): T[] {
    const things = [...(this.slots.get(slot) ?? [])]
    this.slots.delete(slot)
    for (const thing of things) this.slotOf.delete(thing)
    return things
  }
}

const range = (from: number, count: number) => Array.from({ length: Math.max(0, count) }, (_, index) => from + index)

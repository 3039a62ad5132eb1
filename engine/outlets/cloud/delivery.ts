import type { RefusedSamples, TakenValues, ValueParcel } from '#core/cloud/entries'
import { fault, type Fault } from '#core/faults/catalogue'
import type { Flow } from '#shared/flow'
import type { CloudPlatformDetails, ValuesNotTaken } from '#shared/outlets/cloudPlatformStatus'
import { Backoff } from '#pacing/backoff'
import { Rate } from '#pacing/rate'
import { Signal } from '#pacing/signal'
import { within } from '#pacing/within'
import type { KeptQueue } from '../../disk/keptQueue'
import { messageFrom } from './messages'
import { samplesIn, type KeptParcel } from './parcel'
import { PlatformFailure, type Platform } from './platform'

interface Around {
  queue: KeptQueue<KeptParcel>
  platform(): Platform
  /** The most values of a message. */
  most(): number
  patience(): { retryFirst: number; retryMost: number }
  pathOf(key: string): string
  caution(why: Fault): void
  note(text: string): void
}

const idleMs = 1000
const closeWithinMs = 5000
const mostNotTaken = 100
const lateMs = 15_000
/** What is refused for now goes before all else of its tag; some of it holds up everything else only so often. */
const mostAgain = 20
/** Somebody who asks for a longer rest is asked again sooner, in case that it was a mistake. */
const longestRestMs = 600_000

/** Hands what waits to the platform, in order, and keeps it until it was taken. */
export class Delivery {
  private backoff: Backoff
  private signal = new Signal()
  private ending = new AbortController()
  private stopping = new AbortController()
  private ended: Promise<void>
  private rate: Rate
  private inHand = 0
  private again = { id: '', count: 0 }
  /** A message holds fewer where the platform found one too large. */
  private smaller = Infinity
  private problem: { why: Fault; flow: Flow } | null = null
  private pausedUntil: number | null = null
  private notTaken = new Map<string, ValuesNotTaken>()
  private sent = 0
  private refused = 0
  private lastAt: number | null = null
  lost = 0

  constructor(private around: Around) {
    this.backoff = this.pauses()
    this.rate = new Rate(() => this.sent)
    this.ended = this.run()
  }

  /** Something waits. */
  wake() {
    this.signal.raise()
  }

  /** The platform, or how it is reached, is another one: nothing is waited for any longer. */
  tryAgain() {
    this.smaller = Infinity
    this.backoff = this.pauses()
    this.pausedUntil = null
    this.stopping.abort()
    this.stopping = new AbortController()
    this.wake()
  }

  /** Drops the oldest, but nothing that is under way, until what waits fits again. @returns how many values went */
  async makeRoom(mostBytes: number): Promise<number> {
    const { queue } = this.around
    let dropped = 0
    while (queue.bytes > mostBytes && queue.count > this.inHand + 1) dropped += await queue.drop(this.inHand)
    this.lost += dropped
    return dropped
  }

  /** @param unseen values that gave way before they could be handed over */
  status(now: number, unseen: number): Pick<CloudPlatformDetails, 'delivery' | 'notTaken'> {
    const { queue } = this.around
    const behind = queue.oldestAt === null ? 0 : Math.max(0, now - queue.oldestAt)
    const flow = this.problem?.flow ?? (behind > lateMs ? 'late' : 'flowing')
    const clockAhead = this.around.platform().clockAhead ?? null
    return {
      delivery: {
        ...{ flow, fault: this.problem?.why ?? null, sent: this.sent, sentPerSecond: this.rate.perSecond },
        ...{ waiting: queue.samples, waitingBytes: queue.bytes, behind, lost: this.lost + unseen, refused: this.refused },
        ...{ lastAt: this.lastAt, pausedUntil: this.pausedUntil, clockAhead },
      },
      notTaken: [...this.notTaken.values()].reverse(),
    }
  }

  get sentSoFar() {
    return this.sent
  }

  /** What is under way gets a moment. */
  async close() {
    this.ending.abort()
    this.wake()
    await within(closeWithinMs, this.ended).catch(() => this.stopping.abort())
    this.rate.close()
  }

  private pauses() {
    const { retryFirst, retryMost } = this.around.patience()
    return new Backoff(retryFirst, retryMost)
  }

  private async run() {
    while (!this.ending.signal.aborted) {
      try {
        if (await this.step()) this.worked()
        else await this.signal.wait(idleMs)
      } catch (error) {
        if (!this.ending.signal.aborted) await this.failed(error)
      }
    }
  }

  /** @returns whether there was something to hand over */
  private async step(): Promise<boolean> {
    const { queue } = this.around
    const message = await messageFrom(queue, Math.min(this.around.most(), this.smaller))
    if (message === 'nothing') return false
    if (message === 'unreadable') return this.loseUnreadable()
    this.inHand = message.parcels
    try {
      const refused: RefusedSamples[] = []
      for (const part of message.parts) refused.push(...(await this.hand(part)).refused)
      if (this.mustWait(refused, message.samples, message.id)) throw new NotYet(refused)
      for (let i = 0; i < message.parcels; i++) await queue.done()
      this.settle(message.samples, refused)
    } finally {
      this.inHand = 0
    }
    return true
  }

  private async hand(parcels: readonly ValueParcel[]): Promise<TakenValues> {
    try {
      return await this.around.platform().send(parcels, this.stopping.signal)
    } catch (error) {
      if (!(error instanceof PlatformFailure) || !error.facts.isTooLarge) throw error
      const held = parcels.reduce((sum, one) => sum + samplesIn(one), 0)
      const [stream] = parcels[0]!.streams
      if (held === 1) return { taken: 0, refused: [{ key: stream!.key, count: 1, why: 'It is too large for the platform.', later: false }] }
      this.smaller = Math.max(1, Math.floor(held / 2))
      throw new Smaller()
    }
  }

  /** What the platform does not take yet is sent again; where it takes all else, not for ever. */
  private mustWait(refused: readonly RefusedSamples[], samples: number, id: string): boolean {
    const held = refused.filter(({ later }) => later).reduce((sum, { count }) => sum + count, 0)
    if (held === 0) return false
    if (held >= samples) return true
    this.again = this.again.id === id ? { id, count: this.again.count + 1 } : { id, count: 1 }
    return this.again.count <= mostAgain
  }

  private async loseUnreadable(): Promise<true> {
    this.lost += await this.around.queue.drop(0)
    this.around.caution(fault('cloud.unreadable', {}))
    return true
  }

  private settle(samples: number, refused: readonly RefusedSamples[]) {
    const now = Date.now()
    let count = 0
    for (const one of refused) {
      count += one.count
      this.noteRefused(one, now)
    }
    this.refused += count
    this.sent += Math.max(0, samples - count)
    this.lastAt = now
  }

  private noteRefused({ key, count, why }: RefusedSamples, at: number) {
    const before = this.notTaken.get(key)
    const path = this.around.pathOf(key)
    this.notTaken.delete(key)
    this.notTaken.set(key, { path, count: (before?.count ?? 0) + count, why, at })
    if (this.notTaken.size > mostNotTaken) this.notTaken.delete(this.notTaken.keys().next().value!)
    const told = fault('cloud.some-refused', { count, path, why })
    if (before?.why !== why) this.around.caution(told)
  }

  private worked() {
    if (this.problem) this.around.note('The platform takes values again.')
    this.problem = null
    this.pausedUntil = null
    this.backoff.reset()
  }

  private async failed(error: unknown) {
    if (error instanceof Smaller) return
    const { why, flow, after } = asTrouble(error, this.around.pathOf)
    if (this.problem?.why.code !== why.code) this.around.caution(why)
    this.problem = { why, flow }
    const rest = after === null ? this.backoff.next() : Math.min(after, longestRestMs)
    this.pausedUntil = after === null ? null : Date.now() + rest
    await this.rest(rest)
  }

  /** Whoever changes the settings, or ends the outlet, ends the rest. */
  private rest(ms: number): Promise<void> {
    const { signal } = this.stopping
    return new Promise((resolve) => {
      const done = () => {
        clearTimeout(timer)
        for (const one of [signal, this.ending.signal]) one.removeEventListener('abort', done)
        resolve()
      }
      const timer = setTimeout(done, ms)
      for (const one of [signal, this.ending.signal]) one.addEventListener('abort', done)
      if (signal.aborted || this.ending.signal.aborted) done()
    })
  }
}

/** The same again in smaller messages. */
class Smaller extends Error {}

/** Some, or all, is not taken for now. */
class NotYet extends Error {
  constructor(readonly refused: readonly RefusedSamples[]) {
    super('not yet')
  }
}

const asTrouble = (error: unknown, pathOf: (key: string) => string): { why: Fault; flow: Flow; after: number | null } => {
  if (error instanceof NotYet) {
    const waits = error.refused.filter(({ later }) => later)
    const count = waits.reduce((sum, one) => sum + one.count, 0)
    const { key, why } = waits[0]!
    return { why: fault('cloud.waits', { count, why }, pathOf(key)), flow: 'late', after: null }
  }
  if (!(error instanceof PlatformFailure))
    return { why: fault('ours.unexpected', { problem: (error as Error).message }), flow: 'broken', after: null }
  const { why, facts } = error
  return { why, flow: why.code === 'cloud.throttled' ? 'late' : 'broken', after: facts.after ?? null }
}

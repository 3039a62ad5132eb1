import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import { steadyNow } from '#pacing/clock'
import type { Handle } from '../table/tagTable'
import type { WriteOutcome } from './driver'

/** What a write that is under way goes by. */
export interface Sending {
  /** Unix milliseconds: nothing may leave after that, for whoever wrote is told that it failed. */
  until: number
}

interface Waiting {
  handle: Handle
  path: string
  until: number
  send(sending: Sending): Promise<WriteOutcome>
  settle(outcome: WriteOutcome): void
}

/** More than this many writes waiting means that the writer outruns the device for good. */
const mostWaiting = 1000

interface QueueSettings {
  keep: 'all' | 'latest'
  /** So long a write may wait, ms. */
  within: number
}

/**
 * The writes of one device, one after the other in the order in which they came: `all` of them, or
 * only the `latest` per tag, where a newer one takes the place of one still waiting. What could
 * not be sent in time is not sent at all.
 */
export class WriteQueue {
  private waiting: Waiting[] = []
  private busy = false

  constructor(private settings: QueueSettings) {}

  adjust(settings: QueueSettings) {
    this.settings = settings
  }

  push(handle: Handle, path: string, send: Waiting['send']): Promise<WriteOutcome> {
    return new Promise((settle) => {
      const write = { handle, path, send, settle, until: steadyNow() + this.settings.within }
      if (this.settings.keep === 'latest' && this.replace(write)) return
      if (this.waiting.length >= mostWaiting)
        return settle({ ok: false, quality: quality.BadDeviceFailure, fault: fault('write.queue-full', { path, most: mostWaiting }) })
      this.waiting.push(write)
      void this.work()
    })
  }

  private replace(write: Waiting): boolean {
    const index = this.waiting.findIndex((other) => other.handle === write.handle)
    if (index < 0) return false
    const old = this.waiting[index]!
    this.waiting[index] = write
    old.settle({ ok: false, quality: quality.UncertainLastUsableValue, fault: fault('write.superseded', { path: old.path }) })
    return true
  }

  private async work() {
    if (this.busy) return
    this.busy = true
    for (let write = this.waiting.shift(); write; write = this.waiting.shift()) write.settle(await outcomeOf(write))
    this.busy = false
  }
}

/** Never rejects: one that goes wrong holds up nobody behind it. */
const outcomeOf = async ({ path, until, send }: Waiting): Promise<WriteOutcome> => {
  if (steadyNow() > until) return expired(path)
  try {
    return await send({ until })
  } catch (error) {
    const problem = error instanceof Error ? error.message : String(error)
    return { ok: false, quality: quality.BadInternalError, fault: fault('ours.unexpected', { problem }) }
  }
}

/** It waited too long, and was not sent. */
export const expired = (path: string): WriteOutcome & { ok: false } => ({
  ok: false,
  quality: quality.BadTimeout,
  fault: fault('write.expired', { path }),
})

import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import type { Handle } from '../table/tagTable'
import type { WriteOutcome } from './driver'

interface Waiting {
  handle: Handle
  path: string
  send(): Promise<WriteOutcome>
  settle(outcome: WriteOutcome): void
}

/** More than this many writes waiting means that the writer outruns the device for good. */
const mostWaiting = 1000

/**
 * The writes of one device, one after the other in the order in which they came: `all` of them, or
 * only the `latest` per tag, where a newer one takes the place of one still waiting.
 */
export class WriteQueue {
  private waiting: Waiting[] = []
  private busy = false

  constructor(private keep: 'all' | 'latest') {}

  setKeep(keep: 'all' | 'latest') {
    this.keep = keep
  }

  push(handle: Handle, path: string, send: Waiting['send']): Promise<WriteOutcome> {
    return new Promise((settle) => {
      const write = { handle, path, send, settle }
      if (this.keep === 'latest' && this.replace(write)) return
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
    for (let write = this.waiting.shift(); write; write = this.waiting.shift()) write.settle(await write.send())
    this.busy = false
  }
}

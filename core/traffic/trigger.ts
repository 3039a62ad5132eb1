import type { FrameBook } from './frameBook'
import type { FrameFilter } from './filter'

/** What is waited for, and how much around it is kept. */
export interface Trigger {
  /** Null: whoever watches says when. */
  filter: FrameFilter | null
  beforeMs: number
  afterMs: number
}

export type TriggerState = { is: 'waiting' } | { is: 'caught'; at: number; n: number | null } | { is: 'done'; at: number; n: number | null }

/** Waits for a frame, with those before it in the book, and closes the book some time after it. */
export class TriggerWatch {
  state: TriggerState = { is: 'waiting' }

  constructor(
    private trigger: Trigger,
    private book: FrameBook,
  ) {}

  /** Before a frame that passed at this moment is added. @returns whether it is to be added */
  takes(at: number): boolean {
    if (this.state.is === 'done') return false
    if (this.state.is === 'caught' && at > this.state.at + this.trigger.afterMs) {
      this.state = { ...this.state, is: 'done' }
      return false
    }
    return true
  }

  /** After it was added. */
  added(n: number, at: number) {
    if (this.state.is !== 'waiting') return
    const { filter, beforeMs } = this.trigger
    if (filter && !this.book.passing(filter, n, n + 1).next().done) return this.catch(at, n)
    this.book.forgetBefore(at - beforeMs)
  }

  /** Something elsewhere happened. */
  catch(at: number, n: number | null = null) {
    if (this.state.is === 'waiting') this.state = { is: 'caught', at, n }
  }
}

import type { PayloadForm } from '#core/messages/form'

/** A topic on which messages come that nobody claims. */
export interface UnclaimedTopic {
  topic: string
  /** Messages since it was first seen. */
  count: number
  perSecond: number
  form: PayloadForm
  /** The last payload in one line, and its length. */
  last: string
  bytes: number
  /** When it came, Unix milliseconds. */
  at: number
}

export interface UnclaimedStatus {
  /** The busiest first. */
  topics: UnclaimedTopic[]
  count: number
  /** Topics that made room for others: there are more than are remembered. */
  gaveWay: number
}

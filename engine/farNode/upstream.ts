import { FrameWriter } from '#core/nodes/frames'
import { onClockSet } from '#pacing/clock'
import type { Handle, TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'

/** Where frames go. */
export interface Outgoing {
  send(frame: Uint8Array): void
  /** Bytes that wait to be sent. */
  readonly backlog: number
}

const sendEveryMs = 50
const confirmEveryMs = 10_000
/** With so much on the way, or waiting here, only the last value of each tag goes on. */
const mostBytes = 4 * 1024 * 1024

/** Sends what tags have to the site: each change as it comes; while the line does not take it all, the last of each. */
export class Upstream {
  private to: Outgoing | null = null
  private frame = new FrameWriter('samples')
  /** What changed while the line took no more; null: it takes all. */
  private late: Set<Handle> | null = null
  private revision = 0
  private confirmedAt = 0
  private timers: NodeJS.Timeout[]
  private ends: (() => void)[]

  constructor(
    private table: TagTable,
    private tags: TagRegister,
  ) {
    this.ends = [table.listen((handles) => this.heard(handles)), onClockSet(() => (this.confirmedAt = 0))]
    this.timers = [setInterval(() => this.send(), sendEveryMs), setInterval(() => this.confirm(), confirmEveryMs)]
  }

  /** The site is there: it gets what all tags have. */
  connect(to: Outgoing) {
    this.to = to
    this.late = new Set([...this.tags.all()].map(({ handle }) => handle))
    this.confirmedAt = Date.now()
  }

  disconnect() {
    this.to = null
    this.late = null
    this.frame.take(this.revision)
  }

  /** What comes from now on is by this revision of the configuration. */
  isBy(revision: number) {
    if (revision === this.revision) return
    this.sendNow()
    this.revision = revision
  }

  resend(tagIds: Iterable<number>) {
    if (!this.to) return
    for (const id of tagIds) {
      const handle = this.tags.handleOf(id)
      if (handle !== undefined) (this.late ??= new Set()).add(handle)
    }
  }

  close() {
    for (const end of this.ends) end()
    for (const timer of this.timers) clearInterval(timer)
    this.sendNow()
    this.to = null
  }

  /** Within a flush. */
  private heard(handles: readonly Handle[]) {
    if (!this.to) return
    if (!this.late && this.frame.size > mostBytes) this.late = new Set()
    for (const handle of handles) {
      if (this.late) this.late.add(handle)
      else this.add(handle)
    }
  }

  private add(handle: Handle) {
    const tag = this.tags.byHandle(handle)
    if (!tag) return
    const { values, quality, sourceTime, seenAt } = this.table
    this.frame.sample({
      tag: tag.id,
      quality: quality[handle]!,
      sourceTime: sourceTime[handle]!,
      seenAt: seenAt[handle]!,
      value: values[handle],
    })
  }

  private send() {
    if (!this.to || this.to.backlog > mostBytes) return
    if (this.late) {
      for (const handle of this.late) this.add(handle)
      this.late = null
    }
    this.sendNow()
  }

  private sendNow() {
    if (this.frame.count > 0) this.to?.send(this.frame.take(this.revision))
  }

  /** Which values still hold, though they did not change. */
  private confirm() {
    if (!this.to || this.to.backlog > mostBytes) return
    const confirmed = new FrameWriter('confirmed')
    const now = Date.now()
    for (const { id, handle } of this.tags.all()) {
      const seenAt = this.table.seenAt[handle]!
      if (seenAt > this.confirmedAt) confirmed.confirmed(id, seenAt)
    }
    this.confirmedAt = now
    this.sendNow()
    if (confirmed.count > 0) this.to.send(confirmed.take(this.revision))
  }
}

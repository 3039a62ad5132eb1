import type { Handle, TagTable } from './tagTable'
import type { TagValue } from '#core/tags/types'

/** What a session needs of the tag table. */
export type SampleSink = Pick<
  TagTable,
  'set' | 'pass' | 'degrade' | 'confirm' | 'renew' | 'flush' | 'values' | 'quality' | 'sourceTime' | 'seenAt'
>

/**
 * The way of one session into the tag table. Once it is shut, what that session still hears is nobody's
 * business: the tags may have another source by then.
 */
export class Intake implements SampleSink {
  private isOpen = true

  constructor(private table: SampleSink) {}

  shut() {
    this.isOpen = false
  }

  set(handle: Handle, value: TagValue, code: number, time: number, sourceTime = time) {
    if (this.isOpen) this.table.set(handle, value, code, time, sourceTime)
  }

  pass(handle: Handle, value: TagValue | undefined, code: number, time: number, sourceTime: number) {
    if (this.isOpen) this.table.pass(handle, value, code, time, sourceTime)
  }

  degrade(handle: Handle, code: number, time: number) {
    if (this.isOpen) this.table.degrade(handle, code, time)
  }

  confirm(handle: Handle, time: number) {
    if (this.isOpen) this.table.confirm(handle, time)
  }

  renew(handle: Handle, time: number) {
    if (this.isOpen) this.table.renew(handle, time)
  }

  flush() {
    if (this.isOpen) this.table.flush()
  }

  get values() {
    return this.table.values
  }
  get quality() {
    return this.table.quality
  }
  get sourceTime() {
    return this.table.sourceTime
  }
  get seenAt() {
    return this.table.seenAt
  }
}

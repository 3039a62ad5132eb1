import { fault } from '#core/faults/catalogue'
import { isGood, quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import { beyondLimit } from '#shared/sources/memory'
import { isFrom } from '#shared/sources/registry'
import type { ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { WriteOutcome } from '../links/driver'
import { within } from '#pacing/within'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import type { MemoryStore } from './memoryStore'
import type { RunningSource } from './source'

/** More writes than this waiting means that the writer outruns the disk for good. */
const mostWaiting = 10_000
const longestMs = 10_000

/** The disk has not answered; it may still take the value. */
class TooLate extends Error {
  constructor() {
    super(`the disk did not answer within ${longestMs / 1000} s`)
  }
}

/**
 * Tags whose values are kept here: they hold what was written last, over restarts, and before that what they start
 * with. A write counts once it is on the disk.
 */
export class MemoryTags implements RunningSource {
  private tags = new Map<Handle, RegisteredTag>()

  constructor(
    private table: TagTable,
    private store: MemoryStore,
  ) {}

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    const gone = removed.map((handle) => this.tags.get(handle)?.id).filter((id) => id !== undefined)
    for (const handle of removed) this.tags.delete(handle)
    // a value that stays on the disk is nobody's: ids are not given twice
    if (gone.length > 0) this.store.forget(gone).catch(() => {})
    for (const tag of changed) {
      this.tags.set(tag.handle, tag)
      this.show(tag)
    }
    return new Map()
  }

  counts() {
    let goodTags = 0
    for (const handle of this.tags.keys()) if (isGood(this.table.quality[handle]!)) goodTags++
    return { tags: this.tags.size, goodTags }
  }

  async write(handle: Handle, value: TagValue, { who }: Writer): Promise<WriteOutcome> {
    const tag = this.tags.get(handle)
    if (!tag) return { ok: false, quality: quality.BadNodeIdUnknown, fault: fault('entry.gone', { thing: 'tag', id: 0 }) }
    const { id, path, type } = tag
    const fits = toRaw(value, type, null)
    if (!fits.ok) {
      const code = fits.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange
      return { ok: false, quality: code, fault: fault('write.value', { path, problem: fits.detail }) }
    }
    const beyond = isFrom('memory', tag) ? beyondLimit(fits.raw, tag.source) : null
    if (beyond) return { ok: false, quality: quality.BadOutOfRange, fault: fault('write.value', { path, problem: beyond }) }
    if (this.store.waitingCount >= mostWaiting)
      return { ok: false, quality: quality.BadDeviceFailure, fault: fault('write.queue-full', { path, most: mostWaiting }) }
    const kept = this.store.keep(id, { type, value: fits.raw, at: Date.now(), who }).then(() => this.shown(handle, id))
    try {
      await within(longestMs, kept, () => new TooLate())
      return { ok: true }
    } catch (error) {
      const problem = (error as Error).message
      const why = error instanceof TooLate ? fault('write.unknown', { path, problem }) : fault('write.not-kept', { path, problem })
      return { ok: false, quality: quality.BadDeviceFailure, fault: why }
    }
  }

  /** Also where its writer was told that it took too long: the tag holds what the disk has. */
  private shown(handle: Handle, id: number) {
    const present = this.tags.get(handle)
    if (present?.id === id) this.show(present)
    this.table.flush()
  }

  origin(handle: Handle): ValueOrigin | null {
    const tag = this.tags.get(handle)
    if (!tag) return null
    const kept = this.keptOf(tag)
    const start = startOf(tag)
    const stage = kept
      ? { title: 'Kept here', text: valueText(kept.value, tag.type), detail: `written by ${kept.who},`, at: kept.at }
      : start === null
        ? { title: 'Nothing yet', text: '', detail: 'nobody wrote it, and it starts with nothing' }
        : { title: 'Starts with', text: valueText(start, tag.type), detail: 'nobody wrote it yet' }
    return { stages: [stage], readings: [], wordsFrom: '', goesTo: [], fault: null }
  }

  private show(tag: RegisteredTag) {
    const now = Date.now()
    const kept = this.keptOf(tag)
    const value = kept?.value ?? startOf(tag)
    if (value === null) this.table.degrade(tag.handle, quality.BadWaitingForInitialData, now)
    else this.table.set(tag.handle, value, quality.Good, now, kept?.at ?? now)
  }

  /** What was written while the tag was of another type is not its value now. */
  private keptOf({ id, type }: RegisteredTag) {
    const kept = this.store.get(id)
    return kept?.type === type ? kept : undefined
  }
}

const startOf = (tag: RegisteredTag): TagValue | null => {
  if (!isFrom('memory', tag) || tag.source.start === null) return null
  const fits = toRaw(tag.source.start, tag.type, null)
  return fits.ok ? fits.raw : null
}

import { fault } from '#core/faults/catalogue'
import { isGood, quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import { valueText } from '#core/text/number'
import { isFrom } from '#shared/sources/registry'
import type { ValueOrigin } from '#shared/values'
import type { WriteOutcome } from '../links/driver'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import type { RunningSource } from './source'

/** Tags whose value is part of the configuration. */
export class ConstantTags implements RunningSource {
  private tags = new Map<Handle, RegisteredTag>()

  constructor(private table: TagTable) {}

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    for (const handle of removed) this.tags.delete(handle)
    const problems = new Map<Handle, unknown>()
    const now = Date.now()
    for (const tag of changed) {
      this.tags.set(tag.handle, tag)
      if (!isFrom('constant', tag)) continue
      const fits = toRaw(tag.source.value, tag.type, null)
      if (fits.ok) this.table.set(tag.handle, fits.raw, quality.Good, now)
      else {
        this.table.degrade(tag.handle, quality.BadConfigurationError, now)
        problems.set(tag.handle, new Error(fits.detail))
      }
    }
    return problems
  }

  counts() {
    let goodTags = 0
    for (const handle of this.tags.keys()) if (isGood(this.table.quality[handle]!)) goodTags++
    return { tags: this.tags.size, goodTags }
  }

  write(handle: Handle): Promise<WriteOutcome> {
    return Promise.resolve(notWritten(this.tags.get(handle)?.path ?? ''))
  }

  origin(handle: Handle): ValueOrigin | null {
    const tag = this.tags.get(handle)
    if (!tag) return null
    const text = valueText(this.table.values[handle], tag.type)
    return {
      stages: [{ title: 'Constant', text, detail: 'part of the configuration' }],
      readings: [],
      wordsFrom: '',
      goesTo: [],
      fault: null,
    }
  }
}

/** What is made here is not written by anybody. */
export const notWritten = (path: string): WriteOutcome => ({
  ok: false,
  quality: quality.BadNotWritable,
  fault: fault('write.not-writable', { path }),
})

import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import type { Priorities } from '#shared/links/priorities'
import { toWire, type WriteResult } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { JournalWriter } from '../journal/journal'
import type { WriteOutcome } from '../links/driver'
import type { LinkRunner } from '../links/linkRunner'
import type { RunningSource } from '../sources/source'
import type { Handle, TagTable } from '../table/tagTable'
import type { PointsOnRequest } from './pointsOnRequest'
import type { RegisteredTag, TagRegister } from './tagRegister'

interface Around {
  table: TagTable
  tags: TagRegister
  requested: PointsOnRequest
  source(tag: RegisteredTag): RunningSource | undefined
  link(id: number): LinkRunner | undefined
  journal(): JournalWriter
}

/** Writes values to where tags get them from, and records who did so and what came of it. */
export class TagWrites {
  constructor(private around: Around) {}

  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome> {
    return this.recorded(handle, valueText(value), by, () => this.through(handle, value, by))
  }

  /** The same without a record. */
  async through(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome> {
    const { tags, requested, table } = this.around
    const tag = tags.byHandle(handle) ?? requested.byHandle(handle)
    const source = this.sourceOf(handle)
    if (!tag || !source) return { ok: false, quality: quality.BadNodeIdUnknown, fault: fault('entry.gone', { thing: 'tag', id: 0 }) }
    if (tag.access !== 'readwrite')
      return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: tag.path }) }
    const outcome = await source.write(handle, value, by)
    if (outcome.ok) table.announce(handle)
    return outcome
  }

  /** Where a tag, or a point on request, gets its value from. */
  sourceOf(handle: Handle): RunningSource | undefined {
    const { tags, requested, source, link } = this.around
    const [tag, point] = [tags.byHandle(handle), requested.byHandle(handle)]
    return tag ? source(tag) : point && link(point.linkId)
  }

  async writeTag(id: number, value: TagValue, by: Writer): Promise<WriteResult> {
    const handle = this.around.tags.handleOf(id)
    if (handle === undefined) return { ok: false, fault: fault('entry.gone', { thing: 'tag', id }) }
    return this.resultOf(handle, await this.write(handle, value, by))
  }

  /** Gives back what we hold of a tag whose value goes by priorities. */
  async release(id: number, by: Writer): Promise<WriteResult> {
    const [handle, link] = [this.around.tags.handleOf(id), this.linkOf(id)]
    if (handle === undefined || !link) return { ok: false, fault: fault('entry.gone', { thing: 'tag', id }) }
    const outcome = await this.recorded(handle, 'given back', by, () => link.release(handle))
    if (outcome.ok) this.around.table.announce(handle)
    return this.resultOf(handle, outcome)
  }

  /** Who holds a tag's value, where it goes by priorities. Rejects with a Fault. */
  priorities(id: number): Promise<Priorities> {
    const [handle, link] = [this.around.tags.handleOf(id), this.linkOf(id)]
    if (handle === undefined || !link) throw fault('entry.gone', { thing: 'tag', id }) as unknown as Error
    return link.priorities(handle)
  }

  private linkOf(id: number) {
    const source = this.around.tags.byTagId(id)?.source
    return source?.kind === 'point' ? this.around.link(source.linkId) : undefined
  }

  private resultOf(handle: Handle, outcome: WriteOutcome): WriteResult {
    return outcome.ok ? { ok: true, readBack: toWire(this.around.table.values[handle]) } : { ok: false, fault: outcome.fault }
  }

  private async recorded(handle: Handle, value: string, by: Writer, act: () => Promise<WriteOutcome>): Promise<WriteOutcome> {
    const { tags, requested, table } = this.around
    const [tag, before] = [tags.byHandle(handle), table.values[handle]]
    const ended = this.around.journal().writing({
      ...by,
      tagId: tag?.id ?? null,
      path: tag?.path ?? requested.byHandle(handle)?.path ?? '',
      before: before === undefined ? null : valueText(before, tag?.passedOn),
      value,
    })
    try {
      const outcome = await act()
      ended(outcome.ok ? null : outcome.fault)
      return outcome
    } catch (error) {
      ended(fault('ours.unexpected', { problem: (error as Error).message }))
      throw error
    }
  }
}

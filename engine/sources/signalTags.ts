import { resultAs } from '#core/formulas/result'
import { FormulaProblem } from '#core/formulas/value'
import { signalOf, signalShapes, type Signal } from '#core/signals/signal'
import { isGood, quality, qualityText, severityOf } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { SignalSource } from '#shared/sources/signal'
import { isFrom } from '#shared/sources/registry'
import type { ValueOrigin } from '#shared/values'
import { DueList } from '#pacing/dueList'
import type { WriteOutcome } from '../links/driver'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { notWritten } from './constantTags'
import type { RunningSource } from './source'

interface Running {
  tag: RegisteredTag & { source: SignalSource }
  signal: Signal
}

/** Tags whose values are made here over time. */
export class SignalTags implements RunningSource {
  private running = new Map<Handle, Running>()
  private due = new DueList<Handle>((handles, now) => this.make(handles, now))

  constructor(
    private table: TagTable,
    private tags: TagRegister,
  ) {}

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    for (const handle of removed) {
      this.running.delete(handle)
      this.due.cancel(handle)
    }
    const now = Date.now()
    for (const tag of changed) {
      if (!isFrom('signal', tag)) continue
      const before = this.running.get(tag.handle)
      const isSame = before && JSON.stringify(before.tag.source) === JSON.stringify(tag.source)
      this.running.set(tag.handle, { tag, signal: isSame ? before.signal : signalOf(tag.source, now) })
      this.makeOne(tag.handle, now)
    }
    return new Map()
  }

  counts() {
    let goodTags = 0
    for (const handle of this.running.keys()) if (isGood(this.table.quality[handle]!)) goodTags++
    return { tags: this.running.size, goodTags }
  }

  write(handle: Handle): Promise<WriteOutcome> {
    return Promise.resolve(notWritten(this.running.get(handle)?.tag.path ?? ''))
  }

  origin(handle: Handle): ValueOrigin | null {
    const running = this.running.get(handle)
    if (!running) return null
    const { tag } = running
    return {
      stages: [
        { title: `Signal: ${tag.source.shape}`, text: signalShapes[tag.source.shape], detail: 'made here' },
        {
          title: 'Passed on',
          text: `${valueText(this.table.values[handle], tag.type)} · ${qualityText(this.table.quality[handle]!)}`,
          detail: 'at',
          at: this.table.sourceTime[handle]!,
        },
      ],
      ...{ readings: [], wordsFrom: '', goesTo: [], fault: null },
    }
  }

  close() {
    this.due.close()
  }

  private make(handles: readonly Handle[], now: number) {
    for (const handle of handles) this.makeOne(handle, now)
    this.table.flush()
  }

  /** Steps lie on whole multiples of the interval, so that signals of one interval change together. */
  private makeOne(handle: Handle, now: number) {
    const running = this.running.get(handle)
    if (!running) return
    const { every } = running.tag.source
    this.put(running, now)
    this.due.add(handle, (Math.floor(now / every) + 1) * every)
  }

  private put({ tag, signal }: Running, now: number) {
    const base = tag.source.shape === 'noise' ? this.baseOf(tag) : { value: 0, code: quality.Good as number }
    if (base.value === null || severityOf(base.code) === 'bad') return this.table.degrade(tag.handle, base.code, now)
    try {
      const value = signal(now, base.value)
      this.table.set(tag.handle, resultAs(tag.type === 'bool' ? value > tag.source.low : value, tag.type), base.code, now)
    } catch (error) {
      if (!(error instanceof FormulaProblem)) throw error
      this.table.degrade(tag.handle, quality.BadOutOfRange, now)
    }
  }

  private baseOf({ source }: Running['tag']): { value: number | null; code: number } {
    const of = this.tags.byPath(source.of)
    const value = of && this.table.values[of.handle]
    if (!of || typeof value !== 'number') return { value: null, code: of ? quality.BadTypeMismatch : quality.BadConfigurationError }
    return { value, code: this.table.quality[of.handle]! }
  }
}

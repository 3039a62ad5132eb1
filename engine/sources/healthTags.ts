import { resultAs } from '#core/formulas/result'
import { FormulaProblem } from '#core/formulas/value'
import { healthFactOf, healthValue, type HealthKind, type HealthSubject } from '#core/statistics/health'
import { isGood, quality, qualityText } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { HealthSource } from '#shared/sources/health'
import { isFrom } from '#shared/sources/registry'
import type { ValueOrigin } from '#shared/values'
import type { WriteOutcome } from '../links/driver'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import { notWritten } from './constantTags'
import type { RunningSource } from './source'

const everyMs = 1000

type HealthTag = RegisteredTag & { source: HealthSource }

/** Tags that show how links, outlets and bridges are. They change with what they show, and are looked after each second. */
export class HealthTags implements RunningSource {
  private tags = new Map<Handle, HealthTag>()
  private timer: NodeJS.Timeout

  /** @param subjectOf null: there is none of this name */
  constructor(
    private table: TagTable,
    private subjectOf: (of: HealthKind, name: string) => HealthSubject | null,
  ) {
    this.timer = setInterval(() => this.look(), everyMs)
    this.timer.unref()
  }

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    for (const handle of removed) this.tags.delete(handle)
    for (const tag of changed) {
      this.tags.delete(tag.handle)
      if (!isFrom('health', tag)) continue
      this.tags.set(tag.handle, tag)
      // what another source or thing gave says nothing of this one
      this.table.degrade(tag.handle, quality.BadWaitingForInitialData, Date.now())
    }
    return new Map()
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
    const { of, name, part, fact } = tag.source
    return {
      stages: [
        { title: `Health of the ${of} ${name}${part === '' ? '' : `, ${part}`}`, text: healthFactOf(fact).about, detail: 'measured here' },
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
    clearInterval(this.timer)
  }

  /** Each thing is looked at once, however many tags show it. */
  private look() {
    if (this.tags.size === 0) return
    const now = Date.now()
    const subjects = new Map<string, HealthSubject | null>()
    for (const tag of this.tags.values()) {
      const { of, name } = tag.source
      const key = `${of} ${name}`
      if (!subjects.has(key)) subjects.set(key, this.subjectOf(of, name))
      this.show(tag, subjects.get(key) ?? null, now)
    }
    this.table.flush()
  }

  private show({ handle, source, type }: HealthTag, subject: HealthSubject | null, now: number) {
    if (!subject) return this.degrade(handle, quality.BadConfigurationError, now)
    const value = healthValue(subject, source.fact, source.part, now)
    if (value === null) return this.degrade(handle, quality.BadNoData, now)
    try {
      const shown = resultAs(
        typeof value === 'number' || typeof value === 'boolean' ? (type === 'string' ? String(value) : value) : String(value),
        type,
      )
      if (this.table.values[handle] === shown && isGood(this.table.quality[handle]!)) return
      this.table.set(handle, shown, quality.Good, now)
    } catch (error) {
      if (!(error instanceof FormulaProblem)) throw error
      this.degrade(handle, quality.BadOutOfRange, now)
    }
  }

  private degrade(handle: Handle, code: number, now: number) {
    if (this.table.quality[handle] !== code) this.table.degrade(handle, code, now)
  }
}

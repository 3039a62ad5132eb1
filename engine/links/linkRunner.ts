import { fault, type Fault } from '#core/faults/catalogue'
import { isGood, quality } from '#core/tags/quality'
import type { PointDefinition } from '#core/links/protocol'
import type { TagValue } from '#core/tags/types'
import type { Link } from '#shared/links/link'
import type { LinkStatus, ValueOrigin } from '#shared/status'
import type { JournalWriter } from '../journal/journal'
import type { Security } from '../opcua/security'
import type { Handle, TagTable } from '../table/tagTable'
import type { LinkBrowser, LinkSession, Point, WriteOutcome } from './driver'
import { driverOf } from './registry'

/** One link of the configuration: switched on it has a session, switched off its tags say so. */
export class LinkRunner {
  private session: LinkSession<Link['settings']> | null = null
  private points = new Map<Handle, Point>()

  constructor(
    private link: Link,
    private table: TagTable,
    private journal: JournalWriter,
    private security: Security,
  ) {
    if (link.on) this.open()
  }

  get name() {
    return this.link.name
  }

  /** Does only what the change asks for: a new name reopens nothing. */
  async update(link: Link) {
    const before = this.link
    this.link = link
    if (before.on && !link.on) return this.shut()
    if (!before.on && link.on) return this.open()
    if (link.on && JSON.stringify(before.settings) !== JSON.stringify(link.settings)) this.session?.update(link.settings)
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    for (const handle of removed) this.points.delete(handle)
    for (const point of changed) this.points.set(point.handle, point)
    if (this.session) this.session.setPoints(changed, removed)
    else this.markOff(changed)
  }

  write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    if (this.session) return this.session.write(handle, value)
    return Promise.resolve({ ok: false, quality: quality.BadOutOfService, fault: fault('link.off', { name: this.link.name }) })
  }

  origin(handle: Handle): ValueOrigin | null {
    return this.session?.origin(handle) ?? null
  }

  /** Over the connection at hand, else over one of its own. */
  async tryRead(point: PointDefinition): Promise<ValueOrigin> {
    return (await this.session?.tryRead?.(point)) ?? driverOf(this.link.kind).tryRead(this.link.settings, point)
  }

  browser(): LinkBrowser | Fault {
    return this.session?.browser?.() ?? fault('opcua.not-browsable', { name: this.link.name })
  }

  status(): LinkStatus {
    const { id, name } = this.link
    const counts = { id, ...this.countTags() }
    if (this.session) return { ...counts, ...this.session.status() }
    return {
      ...counts,
      flow: 'off',
      sentence: 'Switched off',
      fault: fault('link.off', { name }),
      answerMs: null,
      requests: 0,
      failures: 0,
      units: [],
      connections: 0,
    }
  }

  async close() {
    await this.session?.close()
  }

  private countTags() {
    let [tags, goodTags] = [0, 0]
    for (const { handle, onRequest } of this.points.values()) {
      if (onRequest) continue
      tags++
      if (isGood(this.table.quality[handle]!)) goodTags++
    }
    return { tags, goodTags }
  }

  private open() {
    const { link, table, journal, security } = this
    this.session = driverOf(link.kind).open({ name: link.name, settings: link.settings, table, journal, security })
    this.session.setPoints([...this.points.values()], [])
    this.journal.note(link.name, 'Switched on.')
  }

  private async shut() {
    const session = this.session
    this.session = null
    await session?.close()
    this.markOff([...this.points.values()])
    this.journal.note(this.link.name, 'Switched off.')
  }

  private markOff(points: readonly Point[]) {
    const now = Date.now()
    for (const { handle } of points) this.table.degrade(handle, quality.BadOutOfService, now)
    this.table.flush()
  }
}

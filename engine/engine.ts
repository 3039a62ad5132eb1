import { fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Link } from '#shared/links/link'
import type { EngineStatus, ValueOrigin, WriteResult } from '#shared/status'
import { toWire } from '#shared/status'
import { differenceBetween, emptyConfiguration, type Configuration, type Difference } from './configuration/site'
import { ownInterfaces } from './interfaces'
import type { JournalWriter } from './journal/journal'
import type { WriteOutcome } from './links/driver'
import type { Security } from './opcua/security'
import { LinkRunner } from './links/linkRunner'
import { OutletRunner } from './outlets/outletRunner'
import { PointsOnRequest } from './pointsOnRequest'
import { Rate } from './rate'
import { asOutletTag, asPoint, TagRegister, type RegisteredTag } from './tagRegister'
import { TagTable, type Handle } from './table/tagTable'

interface EngineOptions {
  node: string
  journal: JournalWriter
  security: Security
}

/**
 * The runtime: a tag table in the middle, links that write into it, outlets that read from it.
 * Configurations arrive whole and are applied as differences.
 */
export class Engine {
  readonly table = new TagTable()
  readonly tags = new TagRegister(this.table)
  private configuration = emptyConfiguration()
  private links = new Map<number, LinkRunner>()
  private outlets = new Map<number, OutletRunner>()
  private requested = new PointsOnRequest(this.table, {
    configured: () => this.configuration.links.values(),
    runner: (id) => this.links.get(id),
  })
  private startedAt = Date.now()
  private changesIn = new Rate(() => this.table.changes)
  private changesOut = new Rate(() => this.outletChanges())

  constructor(private options: EngineOptions) {}

  async apply(next: Configuration) {
    const difference = differenceBetween(this.configuration, next)
    this.configuration = next
    this.applyCertificates(difference.certificates, next)
    await this.applyLinks(difference.links)
    this.applyTags(difference.tags)
    await this.removeLinks(difference.links.removed)
    await this.applyOutlets(difference.outlets)
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const tag = this.tags.byHandle(handle) ?? this.requested.byHandle(handle)
    const link = tag && this.links.get(tag.linkId)
    if (!tag || !link) return { ok: false, quality: quality.BadNodeIdUnknown, fault: fault('entry.gone', { thing: 'tag', id: 0 }) }
    if (tag.access !== 'readwrite')
      return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: tag.path }) }
    return link.write(handle, value)
  }

  async writeTag(id: number, value: TagValue): Promise<WriteResult> {
    const handle = this.tags.handleOf(id)
    if (handle === undefined) return { ok: false, fault: fault('entry.gone', { thing: 'tag', id }) }
    const outcome = await this.write(handle, value)
    return outcome.ok ? { ok: true, readBack: toWire(this.table.values[handle]) } : { ok: false, fault: outcome.fault }
  }

  /** How a tag's value is made, to the last consumer. */
  origin(id: number): ValueOrigin | null {
    const tag = this.tags.byTagId(id)
    const origin = tag && this.links.get(tag.linkId)?.origin(tag.handle)
    if (!tag || !origin) return null
    return { ...origin, goesTo: [...this.outlets.values()].filter((outlet) => outlet.shows(tag.path)).map((outlet) => outlet.name) }
  }

  status(): Omit<EngineStatus, 'configurationFrom' | 'databaseConnected'> {
    return {
      node: this.options.node,
      now: Date.now(),
      startedAt: this.startedAt,
      configurationRevision: this.configuration.revision,
      links: [...this.links.values()].map((link) => link.status()),
      outlets: [...this.outlets.values()].map((outlet) => outlet.status()),
      interfaces: ownInterfaces(),
      tags: this.tags.size,
      goodTags: this.table.goodCount - this.requested.goodCount,
      changesInPerSecond: this.changesIn.perSecond,
      changesOutPerSecond: this.changesOut.perSecond,
    }
  }

  link(id: number): LinkRunner | undefined {
    return this.links.get(id)
  }

  outlet(id: number): OutletRunner | undefined {
    return this.outlets.get(id)
  }

  disconnectClient(outletId: number, clientId: string): boolean {
    return this.outlets.get(outletId)?.disconnect(clientId) ?? false
  }

  async close() {
    this.changesIn.close()
    this.changesOut.close()
    await Promise.all([...this.outlets.values()].map((outlet) => outlet.close()))
    await Promise.all([...this.links.values()].map((link) => link.close()))
  }

  private outletChanges() {
    let total = 0
    for (const outlet of this.outlets.values()) total += outlet.changesTold
    return total
  }

  private applyCertificates({ set, removed }: Difference['certificates'], { certificates }: Configuration) {
    if (set.length + removed.length > 0) this.options.security.trust.set(certificates.values())
  }

  private async applyLinks({ set }: Difference['links']) {
    for (const link of set) {
      const known = this.links.get(link.id)
      if (known) await known.update(link)
      else this.links.set(link.id, new LinkRunner(link, this.table, this.options.journal, this.options.security))
    }
  }

  private async removeLinks(removed: number[]) {
    for (const id of removed) {
      await this.links.get(id)?.close()
      this.links.delete(id)
      this.requested.orphan(id)
    }
  }

  private applyTags({ set, removed }: Difference['tags']) {
    const byLink = new LinkParts()
    const gone = removed.map((id) => this.tags.remove(id)).filter((tag) => tag !== undefined)
    for (const tag of gone) byLink.of(tag.linkId).removed.push(tag.handle)
    const kept = set.map((tag) => {
      const before = this.tags.byTagId(tag.id)
      if (before && before.linkId !== tag.linkId) byLink.of(before.linkId).removed.push(before.handle)
      const registered = this.tags.set(tag)
      byLink.of(tag.linkId).changed.push(registered)
      return registered
    })
    for (const [linkId, { changed, removed: handles }] of byLink.entries()) this.links.get(linkId)?.setPoints(changed.map(asPoint), handles)
    const outletTags = kept.map(asOutletTag)
    const handles = gone.map((tag) => tag.handle)
    for (const outlet of this.outlets.values()) outlet.setTags(outletTags, handles)
    for (const tag of gone) this.tags.release(tag)
  }

  private async applyOutlets({ set, removed }: Difference['outlets']) {
    for (const id of removed) {
      await this.outlets.get(id)?.close()
      this.outlets.delete(id)
    }
    for (const outlet of set) {
      const known = this.outlets.get(outlet.id)
      if (known) await known.update(outlet)
      else this.outlets.set(outlet.id, this.newOutlet(outlet))
    }
  }

  private newOutlet(outlet: ConstructorParameters<typeof OutletRunner>[0]) {
    const { journal, security } = this.options
    const write = (handle: Handle, value: TagValue) => this.write(handle, value)
    const links = () => [...this.links.values()].map((link) => ({ name: link.name, ...link.status() }))
    const runner = new OutletRunner(outlet, { table: this.table, journal, security, write, links, points: this.requested })
    runner.setTags([...this.tags.all()].map(asOutletTag), [])
    return runner
  }
}

/** Changed and removed tags of each link. */
class LinkParts {
  private parts = new Map<Link['id'], { changed: RegisteredTag[]; removed: Handle[] }>()

  of(linkId: number) {
    const part = this.parts.get(linkId) ?? { changed: [], removed: [] }
    this.parts.set(linkId, part)
    return part
  }

  entries() {
    return this.parts.entries()
  }
}

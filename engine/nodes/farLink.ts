import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import type { Priorities } from '#shared/links/priorities'
import type { LinkStatus } from '#shared/status'
import { toWire, type ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../links/driver'
import type { SampleSink } from '../table/intake'
import type { Handle } from '../table/tagTable'
import type { RegisteredTag } from '../tags/tagRegister'
import type { NodeRunner } from './nodeRunner'

/** A tag that a node brings the values of. */
export interface Expected {
  handle: Handle
  sink: SampleSink
  /** Only what comes by this revision or a later one is of what the tag is now. */
  since: number
}

interface Around {
  linkId: number
  node: NodeRunner
  /** By which revision the link is as it is. */
  revision(): number
  tagOf(handle: Handle): RegisteredTag | undefined
}

/** A link that runs on a node, as it is here: its values come from there, and what is asked of it is asked there. */
export class FarLink implements LinkSession<unknown> {
  private tags = new Map<Handle, number>()

  constructor(
    private context: Pick<LinkContext<unknown>, 'name' | 'table'>,
    private around: Around,
  ) {
    around.node.attach(around.linkId, this)
  }

  get name() {
    return this.context.name
  }

  /** Other settings: what the tags have says nothing about what comes. The node tells what it has by them. */
  update() {
    const now = Date.now()
    for (const [handle, tag] of this.tags) {
      this.context.table.renew(handle, now)
      this.expect(tag, handle)
    }
    this.context.table.flush()
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    const { node, tagOf } = this.around
    for (const handle of removed) {
      const tag = this.tags.get(handle)
      if (tag !== undefined) node.forget(tag)
      this.tags.delete(handle)
    }
    for (const { handle } of changed) {
      const tag = tagOf(handle)
      if (!tag) {
        this.context.table.degrade(handle, quality.BadNotSupported, Date.now())
        continue
      }
      this.tags.set(handle, tag.id)
      this.expect(tag.id, handle)
    }
    if (!node.isConnected) this.away()
  }

  /** The node is not connected: nobody knows what its links have. */
  away() {
    const now = Date.now()
    for (const handle of this.tags.keys()) this.context.table.degrade(handle, quality.BadNoCommunication, now)
    this.context.table.flush()
  }

  async write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome> {
    const tag = this.tags.get(handle)
    if (tag === undefined) return failed(fault('node.not-there', { what: 'Writing to a point without a tag' }))
    return this.asked(() => this.around.node.ask('writeThrough', [tag, toWire(value), by]) as Promise<WriteOutcome>)
  }

  async priorities(handle: Handle): Promise<Priorities> {
    const answer = (await this.around.node.ask('priorities', [this.tags.get(handle)])) as { ok: true; value: Priorities } | Refused
    if (!answer.ok) throw answer.fault as unknown as Error
    return answer.value
  }

  release(handle: Handle): Promise<WriteOutcome> {
    return this.asked(() => this.around.node.ask('releaseThrough', [this.tags.get(handle)]) as Promise<WriteOutcome>)
  }

  origin(handle: Handle): ValueOrigin | null {
    const tag = this.tags.get(handle)
    return tag === undefined ? null : this.around.node.originOf(tag)
  }

  findings(): PointFinding[] {
    const handles = new Map([...this.tags].map(([handle, tag]) => [tag, handle]))
    return this.around.node.findings.flatMap(({ id, kind, text }) => {
      const handle = handles.get(id)
      return handle === undefined ? [] : [{ handle, kind, text }]
    })
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    return this.around.node.linkStatus(this.around.linkId)
  }

  close() {
    const { node, linkId } = this.around
    for (const tag of this.tags.values()) node.forget(tag)
    node.detach(linkId, this)
    // whoever runs it next waits until nobody there talks to the device any more
    return node.released('link', linkId)
  }

  private expect(tag: number, handle: Handle) {
    const { node, tagOf, revision } = this.around
    const since = Math.max(tagOf(handle)?.revision ?? 0, revision())
    node.expect(tag, { handle, sink: this.context.table, since })
  }

  private async asked(ask: () => Promise<WriteOutcome>): Promise<WriteOutcome> {
    try {
      return await ask()
    } catch (error) {
      if (isFault(error)) return failed(error)
      throw error
    }
  }
}

type Refused = { ok: false; fault: Fault }
const failed = (why: Fault): WriteOutcome => ({ ok: false, quality: quality.BadNoCommunication, fault: why })

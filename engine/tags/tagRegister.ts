import { isFrom } from '#shared/sources/registry'
import { isDeepStrictEqual } from 'node:util'
import { bandOf } from '#core/tags/reports'
import { passedOnBy, wholeScaling } from '#core/tags/scaling'
import { isNumeric, type DataType } from '#core/tags/types'
import type { PointSource } from '#shared/sources/point'
import { isSameSource } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import type { OutletTag } from '../outlets/driver'
import type { OpenPoint } from '../links/driver'
import type { Damping } from '../table/dampers'
import type { Handle, TagTable } from '../table/tagTable'

/** A tag of the configuration with its place in the tag table. */
export interface RegisteredTag extends Tag {
  handle: Handle
  /** The type consumers get, after scaling. */
  passedOn: DataType
}

/** From tag ids to handles and back. */
export class TagRegister {
  private byId = new Map<number, RegisteredTag>()
  private paths = new Map<string, RegisteredTag>()
  private handles: (RegisteredTag | undefined)[] = []

  constructor(private table: TagTable) {}

  set(tag: Tag): RegisteredTag {
    const before = this.byId.get(tag.id)
    if (before) this.forgetPath(before)
    const handle = before?.handle ?? this.table.allocate()
    const registered = { ...tag, handle, passedOn: passedOnBy(tag) }
    this.byId.set(tag.id, registered)
    this.paths.set(tag.path, registered)
    this.handles[handle] = registered
    this.table.damp(handle, dampingOf(tag))
    return registered
  }

  /** Forgets the tag; the handle stays out of use until `release`, when all others have let go. */
  remove(id: number): RegisteredTag | undefined {
    const tag = this.byId.get(id)
    if (!tag) return undefined
    this.byId.delete(id)
    this.forgetPath(tag)
    this.handles[tag.handle] = undefined
    return tag
  }

  release(tag: RegisteredTag) {
    this.table.release(tag.handle)
  }

  /** Two may have one path for a moment, while they swap it. */
  private forgetPath(tag: RegisteredTag) {
    if (this.paths.get(tag.path)?.id === tag.id) this.paths.delete(tag.path)
  }

  byPath(path: string) {
    return this.paths.get(path)
  }

  byTagId(id: number) {
    return this.byId.get(id)
  }

  byHandle(handle: Handle) {
    return this.handles[handle]
  }

  handleOf(id: number): Handle | undefined {
    return this.byId.get(id)?.handle
  }

  all(): IterableIterator<RegisteredTag> {
    return this.byId.values()
  }

  get size() {
    return this.byId.size
  }
}

/** Whether what the tag had so far says nothing about what it will have. */
export const hasOtherSource = (before: Tag, after: Tag) =>
  before.type !== after.type || !isSameSource(before.source, after.source) || !isMadeAlike(before, after)

const isMadeAlike = (a: Tag, b: Tag) => isDeepStrictEqual(a.odd, b.odd) && isDeepStrictEqual(wholeScaling(a), wholeScaling(b))

const dampingOf = ({ type, reports, range }: Tag): Damping | null =>
  reports && { band: isNumeric(type) ? bandOf(reports, range) : 0, least: reports.least ?? 0, most: reports.most ?? 0 }

export const asPoint = ({ source, ...tag }: RegisteredTag & { source: PointSource }): OpenPoint => ({
  handle: tag.handle,
  path: tag.path,
  address: source.address,
  type: tag.type,
  options: source.options,
  access: tag.access,
  interval: source.interval,
  scaling: wholeScaling(tag),
  odd: tag.odd,
})

export const asOutletTag = (tag: RegisteredTag): OutletTag => ({
  handle: tag.handle,
  id: tag.id,
  path: tag.path,
  type: tag.passedOn,
  writable: tag.access === 'readwrite',
  unit: tag.unit,
  range: tag.range,
  names: tag.names,
  description: tag.description,
  ...(isFrom('point', tag) ? { linkId: tag.source.linkId } : {}),
})

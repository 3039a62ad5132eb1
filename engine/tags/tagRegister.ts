import { isDeepStrictEqual } from 'node:util'
import { isScaled } from '#core/tags/scaling'
import { passedOnType, type DataType } from '#core/tags/types'
import type { PointSource } from '#shared/sources/point'
import { isSameSource } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import type { OutletTag } from '../outlets/driver'
import type { Point } from '../links/driver'
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
  private handles: (RegisteredTag | undefined)[] = []

  constructor(private table: TagTable) {}

  set(tag: Tag): RegisteredTag {
    const handle = this.byId.get(tag.id)?.handle ?? this.table.allocate()
    const registered = { ...tag, handle, passedOn: passedOnType(tag.type, isScaled(tag.scaling)) }
    this.byId.set(tag.id, registered)
    this.handles[handle] = registered
    return registered
  }

  /** Forgets the tag; the handle stays out of use until `release`, when all others have let go. */
  remove(id: number): RegisteredTag | undefined {
    const tag = this.byId.get(id)
    if (!tag) return undefined
    this.byId.delete(id)
    this.handles[tag.handle] = undefined
    return tag
  }

  release(tag: RegisteredTag) {
    this.table.release(tag.handle)
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
  before.type !== after.type || !isSameSource(before.source, after.source) || !isSameScaling(before.scaling, after.scaling)

const isSameScaling = (a: Tag['scaling'], b: Tag['scaling']) => a === b || isDeepStrictEqual(a, b)

export const asPoint = ({ handle, path, type, access, scaling, source }: RegisteredTag & { source: PointSource }): Point => ({
  handle,
  path,
  address: source.address,
  type,
  options: source.options,
  access,
  interval: source.interval,
  scaling,
})

export const asOutletTag = (tag: RegisteredTag): OutletTag => ({
  handle: tag.handle,
  id: tag.id,
  path: tag.path,
  type: tag.passedOn,
  writable: tag.access === 'readwrite',
  unit: tag.unit,
  range: tag.range,
  description: tag.description,
})

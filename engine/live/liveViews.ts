import { toWire, type LiveValue, type ValueOrigin } from '#shared/values'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import type { Handle, TagTable } from '../table/tagTable'

/** How the value of one tag is made, at the same moment as the values it comes with. */
export interface LiveOrigin {
  tag: number
  origin: ValueOrigin | null
}

type Deliver = (viewer: string, values: LiveValue[], origin: LiveOrigin | null) => Promise<void>

interface Sources {
  table: TagTable
  tags: TagRegister
  originOf(tagId: number): ValueOrigin | null
}

const updateEveryMs = 100
const ageEveryMs = 1000

interface View {
  ids: ReadonlySet<number>
  /** The tag whose making is shown. */
  origin: number | null
  handles: Set<Handle>
  dirty: Set<Handle>
  /** The tag whose making is shown is another one now. */
  originDue: boolean
  /** A delivery is under way; the next waits, so that a slow page is never flooded. */
  delivering: boolean
  agesSentAt: number
}

/**
 * What the pages of one web process have on screen. Changes are gathered per viewer and sent at most ten
 * times a second, the newest value only, and not before the last delivery was taken. All that one
 * delivery carries was so at one moment.
 */
export class LiveViews {
  private views = new Map<string, View>()
  private stopListening: () => void
  private timer: NodeJS.Timeout

  constructor(
    private sources: Sources,
    private deliver: Deliver,
  ) {
    this.stopListening = sources.table.listen((handles) => this.mark(handles))
    this.timer = setInterval(() => this.sendAll(), updateEveryMs)
  }

  watch(viewer: string, tagIds: readonly number[], origin: number | null) {
    const known = this.views.get(viewer)
    const ids = new Set(origin === null ? tagIds : [...tagIds, origin])
    const handles = this.resolve(ids)
    const fresh = known ? [...handles].filter((handle) => !known.handles.has(handle)) : [...handles]
    const dirty = new Set([...(known?.dirty ?? []), ...fresh].filter((handle) => handles.has(handle)))
    const { delivering, agesSentAt } = known ?? { delivering: false, agesSentAt: 0 }
    const originDue = origin !== (known?.origin ?? null) || known?.originDue === true
    this.views.set(viewer, { ids, origin, handles, dirty, originDue, delivering, agesSentAt })
  }

  /** After a change of the configuration: tags may have come, gone, or be somewhere else in the table. */
  resolveAgain() {
    for (const [viewer, { ids, origin }] of this.views) this.watch(viewer, [...ids], origin)
  }

  private resolve(ids: ReadonlySet<number>): Set<Handle> {
    return new Set([...ids].map((id) => this.sources.tags.handleOf(id)).filter((handle) => handle !== undefined))
  }

  leave(viewer: string) {
    this.views.delete(viewer)
  }

  close() {
    clearInterval(this.timer)
    this.stopListening()
    this.views.clear()
  }

  private mark(handles: readonly Handle[]) {
    for (const view of this.views.values()) for (const handle of handles) if (view.handles.has(handle)) view.dirty.add(handle)
  }

  private sendAll() {
    const now = Date.now()
    for (const [viewer, view] of this.views) if (!view.delivering) this.send(viewer, view, now)
  }

  /** Once a second everything on screen goes out, so that ages are true where values stand still. */
  private send(viewer: string, view: View, now: number) {
    const all = now - view.agesSentAt >= ageEveryMs
    const origin = this.originFor(view, all)
    const handles = all ? view.handles : view.dirty
    if (handles.size === 0 && !origin) return
    if (all) view.agesSentAt = now
    const values = [...handles].map((handle) => this.valueOf(handle, view)).filter((value) => value !== null)
    view.dirty = new Set()
    view.originDue = false
    view.delivering = true
    this.deliver(viewer, values, origin)
      .catch(() => this.leave(viewer))
      .finally(() => {
        const present = this.views.get(viewer)
        if (present) present.delivering = false
      })
  }

  private originFor({ origin, originDue, dirty }: View, all: boolean): LiveOrigin | null {
    if (origin === null) return null
    const handle = this.sources.tags.handleOf(origin)
    const isDue = all || originDue || (handle !== undefined && dirty.has(handle))
    return isDue ? { tag: origin, origin: this.sources.originOf(origin) } : null
  }

  /** Null where the place in the table belongs to another by now. */
  private valueOf(handle: Handle, view: View): LiveValue | null {
    const { table, tags } = this.sources
    const tag = tags.byHandle(handle)
    if (!tag || !view.ids.has(tag.id)) return null
    return liveValueOf(table, tag)
  }
}

/** What a tag has now. */
export const liveValueOf = (table: TagTable, { id, handle, passedOn }: Pick<RegisteredTag, 'id' | 'handle' | 'passedOn'>): LiveValue => ({
  id,
  value: toWire(table.values[handle]),
  type: passedOn,
  quality: table.quality[handle]!,
  sourceTime: table.sourceTime[handle]!,
  seenAt: table.seenAt[handle]!,
})

import { toWire, type LiveValue } from '#shared/status'
import type { TagRegister } from '../tagRegister'
import type { Handle, TagTable } from '../table/tagTable'

type Deliver = (viewer: string, values: LiveValue[]) => Promise<void>

const updateEveryMs = 100
const ageEveryMs = 1000

interface View {
  tagIds: readonly number[]
  handles: Set<Handle>
  dirty: Set<Handle>
  /** A delivery is under way; the next waits, so that a slow page is never flooded. */
  delivering: boolean
  agesSentAt: number
}

/**
 * What pages have on screen. Changes are gathered per viewer and sent at most ten times a second,
 * the newest value only, and not before the last delivery was taken.
 */
export class LiveViews {
  private views = new Map<string, View>()
  private stopListening: () => void
  private timer: NodeJS.Timeout

  constructor(
    private table: TagTable,
    private tags: TagRegister,
    private deliver: Deliver,
  ) {
    this.stopListening = table.listen((handles) => this.mark(handles))
    this.timer = setInterval(() => this.sendAll(), updateEveryMs)
  }

  watch(viewer: string, tagIds: readonly number[]) {
    const known = this.views.get(viewer)
    const handles = this.resolve(tagIds)
    const fresh = known ? [...handles].filter((handle) => !known.handles.has(handle)) : [...handles]
    const dirty = new Set([...(known?.dirty ?? []), ...fresh].filter((handle) => handles.has(handle)))
    this.views.set(viewer, { tagIds, handles, dirty, delivering: known?.delivering ?? false, agesSentAt: known?.agesSentAt ?? 0 })
  }

  /** After a change of the configuration: tags may have come, gone, or be somewhere else in the table. */
  resolveAgain() {
    for (const [viewer, view] of this.views) this.watch(viewer, view.tagIds)
  }

  private resolve(tagIds: readonly number[]): Set<Handle> {
    return new Set(tagIds.map((id) => this.tags.handleOf(id)).filter((handle) => handle !== undefined))
  }

  leave(viewer: string) {
    this.views.delete(viewer)
  }

  leaveAll() {
    this.views.clear()
  }

  close() {
    clearInterval(this.timer)
    this.stopListening()
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
    const handles = all ? view.handles : view.dirty
    if (handles.size === 0) return
    if (all) view.agesSentAt = now
    const values = [...handles].filter((handle) => this.table.isUsed(handle)).map((handle) => this.valueOf(handle))
    view.dirty = new Set()
    view.delivering = true
    this.deliver(viewer, values)
      .catch(() => this.leave(viewer))
      .finally(() => {
        const present = this.views.get(viewer)
        if (present) present.delivering = false
      })
  }

  private valueOf(handle: Handle): LiveValue {
    const { table } = this
    const tag = this.tags.byHandle(handle)!
    return {
      id: tag.id,
      value: toWire(table.values[handle]),
      type: tag.passedOn,
      quality: table.quality[handle]!,
      sourceTime: table.sourceTime[handle]!,
      seenAt: table.seenAt[handle]!,
    }
  }
}

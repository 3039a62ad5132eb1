import { TrafficDesk } from '#core/traffic/desk'
import type { FrameFilter } from '#core/traffic/filter'
import type { BookLimits, FrameConnection, PassedFrame } from '#core/traffic/frameBook'
import type { SavedForm } from '#core/traffic/saved'
import type { Trigger } from '#core/traffic/trigger'

/** What a page asks of the desk of its frames, wherever that stands. */
export const deskCalls = (limits: BookLimits) => {
  const desk = new TrafficDesk(limits)
  return {
    desk,
    calls: {
      take: (connections: FrameConnection[], frames: PassedFrame[]) => {
        desk.connect(connections)
        desk.add(frames)
      },
      filter: (filter: FrameFilter) => desk.setFilter(filter),
      arm: (trigger: Trigger | null) => desk.arm(trigger),
      caught: (at: number) => desk.caught(at),
      clear: () => desk.clear(),
      renew: () => desk.renew(),
      openFile: (bytes: Uint8Array, kind: string | null) => desk.openFile(bytes, kind),
      look: (from: number, count: number) => ({ state: desk.state(), from, rows: desk.rows(from, count), connections: desk.connections() }),
      placeOf: (n: number) => desk.placeOf(n),
      open: (n: number) => desk.open(n),
      save: (form: SavedForm, name: string) => desk.save(form, name),
    },
  }
}
export type DeskCalls = ReturnType<typeof deskCalls>['calls']
export type RemoteDesk = {
  [Name in keyof DeskCalls]: (...given: Parameters<DeskCalls[Name]>) => Promise<Awaited<ReturnType<DeskCalls[Name]>>>
}

export const deskLimits: BookLimits = { frames: 2_000_000, bytes: 384 * 1024 * 1024 }

import { TrafficDesk } from '#core/traffic/desk'
import type { FrameFilter } from '#core/traffic/filter'
import type { BookLimits, FrameConnection, PassedFrame } from '#core/traffic/frameBook'
import type { SavedForm } from '#core/traffic/saved'
import type { Trigger } from '#core/traffic/trigger'

/** What a page asks of the desk of its frames, wherever that stands. */
export const deskCalls = (limits: BookLimits) => {
  const desk = new TrafficDesk(limits)
  /** What is shown is changed so often: a file that was still being read then is not wanted any more. */
  let turns = 0
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
      renew: () => {
        turns++
        desk.renew()
      },
      /** It is read on this side: on its way it is a name, and not its bytes. */
      openFile: async (file: Blob, kind: string | null) => {
        const turn = ++turns
        const bytes = new Uint8Array(await file.arrayBuffer())
        if (turn === turns) desk.openFile(bytes, kind)
      },
      look: (from: number, count: number) => ({ state: desk.state(), from, rows: desk.rows(from, count), connections: desk.connections() }),
      placeOf: (n: number) => desk.placeOf(n),
      open: (n: number) => desk.open(n),
      save: (form: SavedForm, name: string) => new Blob(desk.save(form, name) as BlobPart[]),
    },
  }
}
export type DeskCalls = ReturnType<typeof deskCalls>['calls']
export type RemoteDesk = {
  [Name in keyof DeskCalls]: (...given: Parameters<DeskCalls[Name]>) => Promise<Awaited<ReturnType<DeskCalls[Name]>>>
}

export const deskLimits: BookLimits = { frames: 2_000_000, bytes: 384 * 1024 * 1024 }

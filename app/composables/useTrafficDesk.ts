import type { DeskState } from '#core/traffic/desk'
import { allFrames, type FrameFilter } from '#core/traffic/filter'
import type { FrameConnection, FrameRow, OpenedFrame } from '#core/traffic/frameBook'
import type { Trigger } from '#core/traffic/trigger'
import type { SavedForm } from '#core/traffic/saved'
import type { RemoteDesk } from '~/traffic/remote'
import { startDesk } from '~/traffic/startDesk'

const lookMs = 100
/** Rows are asked for in advance, so that one can scroll. */
const rowsAtOnce = 200

/** Frames that lie in a worker: what of them is in view, and what is done with them. @param start for tests */
export const useTrafficDesk = (start: () => { desk: RemoteDesk; close(): void } = startDesk) => {
  const { desk, close } = start()
  onScopeDispose(close)
  const state = shallowRef<DeskState | null>(null)
  const connections = shallowRef<FrameConnection[]>([])
  const rows = shallowRef<FrameRow[]>([])
  /** The place of the first of these rows. */
  const from = ref(0)
  // passed on as it is: what a deep reference wraps cannot go to a worker
  const filter = shallowRef<FrameFilter>(allFrames)
  const opened = shallowRef<OpenedFrame | null>(null)
  let view = { from: 0, count: 40 }

  /** Why the worker does not answer; empty: it does. */
  const problem = ref('')
  /** What is in view, in words: the same is not laid out again. */
  let shownView = ''
  const look = async () => {
    const begin = Math.max(0, view.from - Math.floor((rowsAtOnce - view.count) / 2))
    const seen = await desk.look(begin, Math.max(rowsAtOnce, view.count)).catch((error: Error) => void (problem.value = error.message))
    if (!seen) return
    problem.value = ''
    state.value = seen.state
    const told = JSON.stringify([seen.from, seen.rows, seen.connections])
    if (told === shownView) return
    shownView = told
    rows.value = seen.rows
    from.value = seen.from
    connections.value = seen.connections
  }
  useRepeated(look, lookMs)

  watch(filter, (wanted) => void desk.filter(wanted))

  return {
    ...{ desk, state, connections, rows, from, filter, opened, problem },
    /** What is in view: so many from a place on. */
    show: (first: number, count: number) => {
      view = { from: first, count }
      if (first < from.value || first + count > from.value + rows.value.length) void look()
    },
    open: async (n: number | null) => {
      opened.value = n === null ? null : await desk.open(n)
    },
    arm: (trigger: Trigger | null) => desk.arm(trigger),
    clear: async () => {
      opened.value = null
      await desk.clear()
      await look()
    },
    renew: async () => {
      opened.value = null
      await desk.renew()
      await look()
    },
    openFile: async (file: Blob, kind: string | null) => {
      opened.value = null
      await desk.openFile(file, kind)
      await look()
    },
    save: async (form: SavedForm, name: string) => {
      saveFile(`${name}.${form === 'text' ? 'txt' : form}`, await desk.save(form, name))
    },
  }
}

import type { linkTraffic } from '#shared/api/links'
import type { outletTraffic } from '#shared/api/outlets'
import type { TappedConnection, TrafficFrame, TrafficPart } from '#shared/traffic'

export interface ShownFrame extends TrafficFrame {
  /** The bytes themselves. */
  data: Uint8Array
}

const mostShown = 5000
const pauseMs = 500

/** Follows what passes at the connections of a link or outlet: the next part is asked for once the last is shown. */
export const useTraffic = (operation: typeof linkTraffic | typeof outletTraffic, id: number) => {
  const frames = shallowRef<ShownFrame[]>([])
  const connections = shallowRef<TappedConnection[]>([])
  /** Frames that made room before they could be taken. */
  const lost = ref(0)
  const paused = ref(false)
  const refused = shallowRef<Refused | null>(null)
  let next: number | null = null
  let isNew = true

  const ask = async () => {
    if (paused.value) return
    try {
      const part = await callApi(operation, { params: { id }, query: { limit: 500, after: next } })
      refused.value = null
      take(part)
    } catch (error) {
      // frames are counted afresh by an engine that was started anew
      next = null
      refused.value = asRefused(error)
    }
  }
  const take = (part: TrafficPart) => {
    const isAnew = next !== null && part.next < next
    if (!isNew && !isAnew) lost.value += part.lost
    isNew = false
    next = part.next
    connections.value = part.connections
    if (part.frames.length > 0) frames.value = [...frames.value, ...part.frames.map(shown)].slice(-mostShown)
  }
  const clear = () => {
    frames.value = []
    lost.value = 0
  }
  /** What passed meanwhile is not shown afterwards: it may be long. */
  const goOn = () => {
    next = null
    isNew = true
    paused.value = false
  }
  useRepeated(ask, pauseMs)
  return { frames, connections, lost, paused, refused, clear, goOn }
}

const shown = (frame: TrafficFrame): ShownFrame => ({ ...frame, data: Uint8Array.from(atob(frame.bytes), (c) => c.charCodeAt(0)) })

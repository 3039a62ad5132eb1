import type { linkTraffic } from '#shared/api/links'
import type { outletTraffic } from '#shared/api/outlets'
import { decoderFor } from '#core/traffic/decode'
import type { FrameField, Memory, Told } from '#core/traffic/told'
import type { TappedConnection, TrafficFrame, TrafficPart } from '#shared/traffic'

export interface ShownFrame extends TrafficFrame {
  /** The bytes themselves. */
  data: Uint8Array
  /** What they are; null: nothing here reads frames of this kind. */
  told: Told | null
  fields: FrameField[]
}

/** How frames are read, and whether what we send goes to somebody who answers. */
interface Read {
  kind: string
  asks: boolean
}

const mostShown = 5000
const pauseMs = 500

/** Follows what passes at the connections of a link or outlet: the next part is asked for once the last is shown. */
export const useTraffic = (operation: typeof linkTraffic | typeof outletTraffic, id: number, read: Read) => {
  const frames = shallowRef<ShownFrame[]>([])
  const connections = shallowRef<TappedConnection[]>([])
  /** Frames that made room before they could be taken. */
  const lost = ref(0)
  const paused = ref(false)
  const refused = shallowRef<Refused | null>(null)
  const decode = decoderFor(read.kind)
  /** What is known of each connection from what passed before. */
  const memories = new Map<number, Memory>()
  const shown = (frame: TrafficFrame): ShownFrame => {
    const data = Uint8Array.from(atob(frame.bytes), (c) => c.charCodeAt(0))
    const memory = memories.get(frame.connection) ?? {}
    memories.set(frame.connection, memory)
    const { told = null, fields = [] } = decode?.(data, frame.out === read.asks, memory) ?? {}
    return { ...frame, data, told, fields }
  }
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
    for (const id of memories.keys()) if (!part.connections.some((one) => one.id === id)) memories.delete(id)
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

import type { linkTraffic } from '#shared/api/links'
import type { outletTraffic } from '#shared/api/outlets'
import type { FrameConnection, PassedFrame } from '#core/traffic/frameBook'
import type { TrafficPart } from '#shared/traffic'

/** How frames are read, and whether what we send goes to somebody who answers. */
export interface TrafficSource {
  operation: typeof linkTraffic | typeof outletTraffic
  id: number
  kind: string
  asks: boolean
}

type Take = (connections: FrameConnection[], frames: PassedFrame[]) => Promise<void>

const atOnce = 1000
const pauseMs = 400

/** Follows what passes at the connections of a link or outlet: the next part is asked for once the last is taken. */
export const useTraffic = (source: () => TrafficSource | null, take: Take) => {
  /** Frames that made room before they could be taken. */
  const lost = ref(0)
  const held = ref(false)
  const refused = shallowRef<Refused | null>(null)
  let next: number | null = null
  let isNew = true
  // lists are read anew with every change of the site: who is looked at is told by kind and number
  const keyOf = (one: TrafficSource | null) => (one ? `${one.kind} ${one.id}` : '')
  const isStill = (from: TrafficSource) => keyOf(source()) === keyOf(from)

  /** @returns whether there is more to have at once */
  const ask = async (from: TrafficSource): Promise<boolean> => {
    try {
      const part = await callApi(from.operation, { params: { id: from.id }, query: { limit: atOnce, after: next } })
      if (!isStill(from)) return false
      refused.value = null
      await put(from, part)
      return part.frames.length === atOnce
    } catch (error) {
      // frames are counted afresh by an engine that was started anew
      next = null
      isNew = true
      refused.value = asRefused(error)
      return false
    }
  }
  const put = async ({ kind, asks }: TrafficSource, part: TrafficPart) => {
    const isAnew = next !== null && part.next < next
    if (!isNew && !isAnew) lost.value += part.lost
    isNew = false
    next = part.next
    const connections = part.connections.map(({ id, here, peer }) => ({ id, here, peer, kind, asks }))
    await take(connections, part.frames.map(passedFrame))
  }
  useRepeated(async () => {
    const from = source()
    while (from && !held.value && (await ask(from)) && isStill(from));
  }, pauseMs)
  /** What passed meanwhile is not shown afterwards: it may be long. */
  const begin = () => {
    next = null
    isNew = true
    lost.value = 0
    held.value = false
  }
  watch(() => keyOf(source()), begin)
  return { lost, held, refused, goOn: begin }
}

const passedFrame = ({ at, connection, out, length, bytes }: TrafficPart['frames'][number]): PassedFrame => ({
  ...{ at, connection, out, length },
  bytes: Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0)),
})

import type { LiveMessage, PageMessage } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import type { LiveValue, ValueOrigin } from '#shared/values'

const firstPauseMs = 250
const longestPauseMs = 5000

/**
 * The page's one websocket. It asks for what is on screen, takes values as they come, and after a
 * drop connects and asks again. Values arrive at most ten times a second.
 */
export const useLive = defineStore('live', () => {
  const connected = ref(false)
  const status = shallowRef<EngineStatus | null>(null)
  /** Told that the engine is not there; before anything is told, nobody knows. */
  const engineAway = ref(false)
  const values = shallowReactive(new Map<number, LiveValue>())
  const origin = shallowRef<{ tag: number; origin: ValueOrigin | null } | null>(null)
  /** Grows with every change of the configuration, whoever made it. */
  const changes = ref(0)
  /** Milliseconds that this browser's clock is ahead of the engine's. */
  const clockAhead = ref(0)

  const wanted = new Map<string, readonly number[]>()
  let wantedOrigin: number | null = null
  let socket: WebSocket | null = null
  let pause = firstPauseMs

  const say = (message: PageMessage) => {
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message))
  }

  const sayWanted = () => {
    const ids = new Set([...[...wanted.values()].flat(), ...(wantedOrigin === null ? [] : [wantedOrigin])])
    for (const id of values.keys()) if (!ids.has(id)) values.delete(id)
    say({ say: 'watch', tags: [...ids], origin: wantedOrigin })
  }

  const hear = (message: LiveMessage) => {
    if (message.say === 'values') {
      for (const value of message.values) values.set(value.id, value)
      if (message.origin?.tag === wantedOrigin) origin.value = message.origin
      requestAnimationFrame(() => say({ say: 'taken', batch: message.batch }))
      if (document.hidden) say({ say: 'taken', batch: message.batch })
    } else if (message.say === 'status') {
      status.value = message.status
      engineAway.value = message.status === null
      if (message.status) clockAhead.value = Date.now() - message.status.now
    } else changes.value++
  }

  const connect = () => {
    const url = new URL('/live', location.href)
    url.protocol = url.protocol.replace('http', 'ws')
    socket = new WebSocket(url)
    socket.onopen = () => {
      connected.value = true
      pause = firstPauseMs
      sayWanted()
      changes.value++
    }
    socket.onmessage = ({ data }) => hear(JSON.parse(data as string) as LiveMessage)
    socket.onclose = () => {
      connected.value = false
      status.value = null
      setTimeout(connect, pause * (0.5 + Math.random() / 2))
      pause = Math.min(longestPauseMs, pause * 2)
    }
  }

  /** What a part of the page shows; replaces what it showed before. */
  const show = (part: string, ids: readonly number[]) => {
    if (ids.length > 0) wanted.set(part, ids)
    else wanted.delete(part)
    sayWanted()
  }

  const showOrigin = (tag: number | null) => {
    wantedOrigin = tag
    if (origin.value?.tag !== tag) origin.value = null
    sayWanted()
  }

  connect()
  return { connected, status, engineAway, values, origin, changes, clockAhead, show, showOrigin }
})

import { defineWebSocketHandler } from 'h3'
import { z } from 'zod'
import { isOurOrigin } from '../lib/origin'
import { liveHub } from '../lib/liveHub'

const message = z.discriminatedUnion('say', [
  z.object({ say: z.literal('watch'), tags: z.array(z.int()) }),
  z.object({ say: z.literal('origin'), tag: z.int().nullable() }),
  z.object({ say: z.literal('taken'), batch: z.int() }),
])

/** What a page shows, live. */
export default defineWebSocketHandler({
  upgrade(request) {
    if (!isOurOrigin(request.headers.get('origin'), request.headers.get('host'))) return new Response('cross-site', { status: 403 })
    return undefined
  },
  open(peer) {
    liveHub.open(peer.id, (text) => peer.send(text))
  },
  message(peer, received) {
    const parsed = message.safeParse(readJson(received.text()))
    if (parsed.success) liveHub.hear(peer.id, parsed.data)
  },
  close(peer) {
    liveHub.left(peer.id)
  },
})

const readJson = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

import { defineWebSocketHandler } from 'h3'
import { z } from 'zod'
import { callerOf, sessionCookie } from '../access/access'
import { isOurOrigin } from '../access/origin'
import { liveHub } from '../runtime/liveHub'

const message = z.discriminatedUnion('say', [
  z.object({ say: z.literal('watch'), tags: z.array(z.int()).max(10_000), origin: z.int().nullable().default(null) }),
  z.object({ say: z.literal('taken'), batch: z.int() }),
])

/** What a page shows, live. */
export default defineWebSocketHandler({
  async upgrade(request) {
    if (!isOurOrigin(request.headers.get('origin'), request.headers.get('host'))) return new Response('cross-site', { status: 403 })
    return (await mayLook(request.headers).catch(() => false)) ? undefined : new Response('sign in first', { status: 401 })
  },
  open(peer) {
    const { headers } = peer.request
    liveHub.open(peer.id, {
      send: (text) => peer.send(text),
      mayStay: () => mayLook(headers),
      close: () => peer.close(4401, 'signed out'),
    })
  },
  message(peer, received) {
    const parsed = message.safeParse(readJson(received.text()))
    if (parsed.success) liveHub.hear(peer.id, parsed.data)
  },
  close(peer) {
    liveHub.left(peer.id)
  },
})

const mayLook = async (headers: Headers): Promise<boolean> => {
  const who = await callerOf(cookieIn(headers.get('cookie')), headers.get('authorization') ?? undefined)
  return who !== null && !who.mustChange
}

const cookieIn = (header: string | null) => new RegExp(`(?:^|;\\s*)${sessionCookie}=([^;]+)`).exec(header ?? '')?.[1]

const readJson = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

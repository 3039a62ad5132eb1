import { precacheAndRoute, type PrecacheEntry } from 'workbox-precaching'
import { registerRoute } from 'workbox-routing'
import { NetworkFirst } from 'workbox-strategies'

/**
 * Keeps check sheets at hand in a browser that loses its connection: the application itself, and of what it asks only who one
 * is, and sheets with their points. All else needs the site.
 */
declare const self: ServiceWorkerGlobalScope & { __WB_MANIFEST: PrecacheEntry[] }

/** What was asked last, until somebody signs in or out. */
const workCache = 'conduit-work'
/** A connection that says nothing for so long is none. */
const silentAfterSeconds = 5

void self.skipWaiting()
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

precacheAndRoute(self.__WB_MANIFEST, { cleanURLs: false })

const keepsWork = new NetworkFirst({ cacheName: workCache, networkTimeoutSeconds: silentAfterSeconds })
const isWork = (path: string) => path === '/api/session' || /^\/api\/check-sheets(\/\d+(\/points)?)?$/.test(path)
registerRoute(({ url }) => url.origin === self.location.origin && isWork(url.pathname), keepsWork)

// every page is the same document
const keepsPage = new NetworkFirst({
  cacheName: workCache,
  networkTimeoutSeconds: silentAfterSeconds,
  plugins: [{ cacheKeyWillBeUsed: () => Promise.resolve('/') }],
})
registerRoute(({ request, url }) => request.mode === 'navigate' && !url.pathname.startsWith('/api/'), keepsPage)

/** As the worker calls it. */
const workCache = 'conduit-work'

/**
 * Keeps the application and what this page asks at hand for a while without a connection. Browsers allow that where a page
 * came over TLS, or from their own machine.
 *
 * @param askAgain asks what was asked before the worker was there, so that it is kept
 */
export const useOffline = (askAgain: () => Promise<unknown>) => {
  const session = useSession()
  onMounted(async () => {
    const { serviceWorker } = navigator as Partial<Navigator>
    if (!serviceWorker) return
    const isFirst = serviceWorker.controller === null
    const known = await serviceWorker.register('/offline.js').catch(() => null)
    if (!known || !isFirst) return
    await inCharge(serviceWorker)
    await (await caches.open(workCache)).add('/').catch(() => {})
    await session.load().catch(() => {})
    await askAgain()
  })
}

const inCharge = (serviceWorker: ServiceWorkerContainer) =>
  serviceWorker.controller !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => serviceWorker.addEventListener('controllerchange', () => resolve(), { once: true }))

/** Nobody sees what another one looked at. */
export const forgetOfflineWork = async () => {
  if ('caches' in globalThis) await caches.delete(workCache).catch(() => {})
}

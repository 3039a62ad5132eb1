const loopbackNames = new Set(['127.0.0.1', 'localhost', '[::1]'])

const hostOnly = (host: string) => host.replace(/:\d+$/, '')

/** Names under which the application may be opened; more by CONDUIT_HOSTS, divided by commas. */
const knownHosts = () => new Set([...loopbackNames, ...(process.env.CONDUIT_HOSTS ?? '').split(',').filter(Boolean)])

/** A host we do not go by means that somebody's name was pointed at this machine. */
export const isOurHost = (host: string | null | undefined) => !!host && knownHosts().has(hostOnly(host))

/** Programs send no origin; pages always do, and it must be ours. */
export const isOurOrigin = (origin: string | null | undefined, host: string | null | undefined): boolean => {
  if (!isOurHost(host)) return false
  if (!origin) return true
  return URL.canParse(origin) && new URL(origin).host === host
}

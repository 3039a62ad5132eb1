import { defineEventHandler, getRequestHeader, setResponseStatus } from 'h3'
import { fault } from '#core/faults/catalogue'
import { isOurHost, isOurOrigin } from '../access/origin'

const reads = new Set(['GET', 'HEAD', 'OPTIONS'])

/** Refuses requests that a foreign page sends with this browser's means. */
export default defineEventHandler((event) => {
  const host = getRequestHeader(event, 'host')
  const origin = getRequestHeader(event, 'origin')
  const ours = reads.has(event.method) ? isOurHost(host) : isOurOrigin(origin, host)
  if (ours) return
  setResponseStatus(event, 403)
  return { fault: fault('entry.cross-site', { origin: origin ?? host ?? 'unknown' }), fields: [] }
})

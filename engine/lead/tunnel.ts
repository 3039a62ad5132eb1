import type { ConnectionOptions } from 'node:tls'
import { WebSocket, type ClientOptions, type RawData } from 'ws'
import { hostText } from '#core/opcua/endpointAddress'
import { steadyNow } from '#pacing/clock'
import type { NodeIdentity } from '../farNode/identity'

const handshakeMs = 5000
const pingEveryMs = 1000
const silentMs = 4000
const mostFrame = 64 * 1024 * 1024
/** So much may wait for the other side. */
const mostBacklog = 64 * 1024 * 1024
const mostEarly = 1000

/** The web side of a machine that stands by speaks with the engine of the machine that leads: word for word, over TLS. */
export const tunnel = (near: WebSocket, identity: NodeIdentity) => {
  const { place } = identity
  if (!place) return near.close(1013, 'nobody leads')
  const tls: ConnectionOptions = {
    ...{ ca: identity.authority, cert: identity.certificate, key: identity.key, minVersion: 'TLSv1.3' },
    // whatever the address, the authority vouches for who answers
    checkServerIdentity: () => undefined,
  }
  const limits = { handshakeTimeout: handshakeMs, maxPayload: mostFrame, perMessageDeflate: false }
  const far = new WebSocket(`wss://${hostText(place.host)}:${place.port}/web`, { ...(tls as ClientOptions), ...limits })
  let heardAt = steadyNow()
  let early: [RawData, boolean][] = []
  const end = () => {
    clearInterval(watch)
    near.terminate()
    far.terminate()
  }
  const watch = setInterval(() => {
    if (steadyNow() - heardAt > silentMs + handshakeMs) return end()
    if (far.readyState === WebSocket.OPEN) far.ping()
  }, pingEveryMs)
  const pass = (to: WebSocket, data: RawData, binary: boolean) => {
    if (to.bufferedAmount > mostBacklog) return end()
    to.send(data, { binary })
  }
  near.on('message', (data, binary) => {
    if (far.readyState === WebSocket.OPEN) return pass(far, data, binary)
    early.push([data, binary])
    if (early.length > mostEarly) end()
  })
  far.on('open', () => {
    for (const [data, binary] of early) pass(far, data, binary)
    early = []
  })
  for (const sign of ['ping', 'pong', 'message']) far.on(sign, () => (heardAt = steadyNow()))
  far.on('message', (data, binary) => pass(near, data, binary))
  for (const side of [near, far]) side.on('close', end).on('error', end)
}

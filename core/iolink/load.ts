import { grouped } from '../lists/grouped'
import { CostlyTags } from '../links/costly'
import type { Experience, LinkLoad, LoadPoint, PartLoad, RoundLoad } from '../links/load'
import { parseAddress, type SensorAddress } from './address'
import type { IoLinkSettings } from './settings'

/** What one request brings: a port's process data as a whole, or a parameter. Empty: nothing is asked for it alone. */
export const requestOf = (address: SensorAddress): string => {
  if (address.of === 'in' || address.of === 'out') return 'process data'
  return address.of === 'parameter' ? `parameter ${address.index}.${address.subindex}` : ''
}

/** How often something is asked for that chooses no interval of its own. */
export const usualInterval = (address: SensorAddress, { interval, parameters, look }: IoLinkSettings): number =>
  address.of === 'parameter' ? parameters : address.of === 'in' || address.of === 'out' ? interval : look

/** Requests per port: one for its process data, one for each parameter, each as often as the quickest of its tags wants it. */
export const ioLinkLoad = (points: readonly LoadPoint[], settings: IoLinkSettings, experience: Experience): LinkLoad => {
  const placed = points.flatMap((point) => {
    const parsed = parseAddress(point.address)
    if (!parsed.ok) return []
    const { address } = parsed
    return [{ point, address, request: requestOf(address), interval: point.interval ?? usualInterval(address, settings) }]
  })
  const costly = new CostlyTags()
  const parts = [...grouped(placed, ({ address }) => address.port)]
    .sort(([a], [b]) => a - b)
    .map(([port, ofPort]): PartLoad => {
      const answerMs = experience(String(port))?.answerMs ?? null
      const requests = [...grouped(ofPort, ({ request }) => request)]
        .filter(([request]) => request !== '')
        .map(([, items]) => ({ items, interval: Math.min(...items.map(({ interval }) => interval)) }))
      if (answerMs !== null) for (const { items, interval } of requests) costly.note(items, interval, answerMs)
      const rounds = [...grouped(requests, ({ interval }) => interval)]
        .sort(([a], [b]) => a - b)
        .map(([interval, ofRound]): RoundLoad => {
          const tags = ofRound.reduce((sum, { items }) => sum + items.length, 0)
          const ms = answerMs === null ? null : ofRound.length * answerMs
          return { interval, tags, requests: ofRound.length, carried: tags, wanted: tags, ms }
        })
      const busy = answerMs === null ? null : rounds.reduce((sum, { ms, interval }) => sum + ms! / interval, 0)
      return { unit: String(port), rounds, busy, fastest: answerMs === null ? null : requests.length * answerMs }
    })
  return { parts, busy: busyOf(parts, settings.atOnce), costly: costly.list() }
}

/** Ports share the requests that may be under way at once. */
const busyOf = (parts: readonly PartLoad[], atOnce: number): number | null =>
  parts.length === 0 || parts.some(({ busy }) => busy === null) ? null : parts.reduce((sum, { busy }) => sum + busy!, 0) / atOnce

import { CostlyTags, wantedOf } from '../links/costly'
import type { Experience, LinkLoad, LoadPoint, RoundLoad } from '../links/load'
import { grouped } from '../lists/grouped'
import { planRequests } from './planning'
import { pointOf, type IsoPoint } from './point'
import type { IsoTcpSettings } from './settings'

interface Placed extends IsoPoint {
  point: LoadPoint
  interval: number
}

/** What reading these points asks of a controller: pieces, packed into requests, and what they take. */
export const isoTcpLoad = (points: readonly LoadPoint[], settings: IsoTcpSettings, experience: Experience): LinkLoad => {
  const placed = points.flatMap((point): Placed[] => {
    const at = pointOf(point, settings)
    return at ? [{ ...at, point, interval: point.interval ?? settings.interval }] : []
  })
  if (placed.length === 0) return { parts: [], busy: null, costly: [] }
  const { answerMs, fences } = experience(null) ?? { answerMs: null, fences: {} }
  const atOnce = settings.requests.parallel * settings.requests.connections
  const msOf = (requests: number) => (answerMs === null ? null : (requests * answerMs) / atOnce)
  const { size, readAcross } = settings.requests
  const requestsOf = (some: readonly Placed[]) => planRequests(some, { size, readAcross, fences: (row) => fences[row] ?? [] })
  const costly = new CostlyTags()
  const rounds = [...grouped(placed, ({ interval }) => interval)]
    .sort(([a], [b]) => a - b)
    .map(([interval, ofRound]): RoundLoad => {
      const requests = requestsOf(ofRound)
      const pieces = requests.flat().flatMap(({ piece, from }) => (from === 0 ? [piece] : []))
      const ms = msOf(1)
      if (ms !== null)
        for (const parts of requests)
          costly.note(
            parts.flatMap(({ piece }) => piece.items),
            interval,
            ms,
          )
      return {
        ...{ interval, tags: ofRound.length, requests: requests.length },
        ...{ carried: sum(pieces.map(({ count }) => count)), wanted: wantedOf(pieces), ms: msOf(requests.length) },
      }
    })
  const busy = answerMs === null ? null : sum(rounds.map(({ ms, interval }) => ms! / interval))
  return { parts: [{ unit: null, rounds, busy, fastest: msOf(requestsOf(placed).length) }], busy, costly: costly.list() }
}

const sum = (numbers: readonly number[]) => numbers.reduce((total, one) => total + one, 0)

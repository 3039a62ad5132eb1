import { grouped } from '../lists/grouped'
import { CostlyTags } from '../links/costly'
import { busiest, type Experience, type LinkLoad, type LoadPoint, type PartLoad, type RoundLoad } from '../links/load'
import { mostBytes } from './apdu'
import { planReads, type ReadItem } from './planning'
import { pointOf, type BacnetPoint } from './point'
import type { BacnetSettings } from './settings'

interface Placed extends ReadItem {
  point: LoadPoint
  placed: BacnetPoint
  interval: number
}

/** How often a point is asked for: what is notified is only compared now and then. */
export const askedEvery = ({ notices }: Pick<BacnetPoint, 'notices'>, interval: number, settings: Pick<BacnetSettings, 'notices'>) =>
  notices === 'off' ? interval : Math.max(interval, settings.notices.compare * 1000)

/** What reading these points asks of each device: objects packed into requests, and what they take. */
export const bacnetLoad = (points: readonly LoadPoint[], settings: BacnetSettings, experience: Experience): LinkLoad => {
  const placed = points.flatMap((point): Placed[] => {
    const found = pointOf(point, settings)
    if (!found) return []
    const interval = askedEvery(found, point.interval ?? settings.interval, settings)
    return [{ point, placed: found, ref: found.address, type: point.type, seen: null, interval }]
  })
  const costly = new CostlyTags()
  const parts = [...grouped(placed, ({ placed: { address } }) => address.device)]
    .sort(([a], [b]) => a - b)
    .map(([device, ofDevice]) => partOf(String(device), ofDevice, settings, experience, costly))
  return {
    parts,
    busy:
      parts.length === 0
        ? null
        : busiest(
            parts.map(({ busy }) => busy),
            Infinity,
          ),
    costly: costly.list(),
  }
}

const partOf = (unit: string, items: readonly Placed[], settings: BacnetSettings, experience: Experience, costly: CostlyTags): PartLoad => {
  const answerMs = experience(unit)?.answerMs ?? null
  const { most, parallel, flags } = settings.requests
  const limits = { objects: most, requestRoom: mostBytes - 30, answerRoom: mostBytes - 30, flags }
  const msOf = (requests: number) => (answerMs === null ? null : (requests * answerMs) / parallel)
  const rounds = [...grouped(items, ({ interval }) => interval)]
    .sort(([a], [b]) => a - b)
    .map(([interval, ofRound]): RoundLoad => {
      const requests = planReads(ofRound, limits)
      if (answerMs !== null)
        for (const request of requests)
          costly.note(
            request.map(({ point }) => ({ point })),
            interval,
            answerMs / parallel,
          )
      return {
        ...{ interval, tags: ofRound.length, requests: requests.length, ms: msOf(requests.length) },
        ...{ carried: ofRound.length, wanted: ofRound.length },
      }
    })
  const busy = answerMs === null ? null : rounds.reduce((total, { ms, interval }) => total + ms! / interval, 0)
  return { unit, rounds, busy, fastest: msOf(planReads(items, limits).length) }
}

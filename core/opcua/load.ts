import { grouped } from '../lists/grouped'
import type { LinkLoad, LoadPoint } from '../links/load'
import type { OpcuaPointOptions, OpcuaSettings } from './settings'

/** A server that watches tells what changed: a subscription per interval, an item per node. What that takes, it alone knows. */
export const opcuaLoad = (points: readonly LoadPoint[], settings: OpcuaSettings): LinkLoad => {
  const rounds = [...grouped(points, ({ interval }) => interval ?? settings.reading.publishing)]
    .sort(([a], [b]) => a - b)
    .map(([interval, ofInterval]) => {
      const items = new Set(
        ofInterval.map(({ address, options }) => JSON.stringify([address, (options as OpcuaPointOptions).deadband ?? null])),
      )
      return { interval, tags: ofInterval.length, requests: 0, carried: items.size, wanted: items.size, ms: null }
    })
  return { parts: rounds.length === 0 ? [] : [{ unit: null, rounds, busy: null, fastest: null }], busy: null, costly: [] }
}

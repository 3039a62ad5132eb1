import type { LinkLoad, LoadPoint } from '../links/load'
import type { HttpSettings } from './settings'

/** One call for all tags that want the same of an operation, as often as the quickest of them wants it. */
export const httpLoad = (points: readonly LoadPoint[], settings: unknown): LinkLoad => {
  const usual = (settings as HttpSettings).interval
  const rounds = new Map<number, { tags: number; calls: Set<string> }>()
  for (const { address, interval } of points) {
    const every = interval ?? usual
    const round = rounds.get(every) ?? { tags: 0, calls: new Set<string>() }
    rounds.set(every, round)
    round.tags++
    round.calls.add(address)
  }
  const told = [...rounds].map(([interval, { tags, calls }]) => ({
    interval,
    tags,
    requests: 0,
    carried: calls.size,
    wanted: calls.size,
    ms: null,
  }))
  return { parts: told.length === 0 ? [] : [{ unit: null, rounds: told, busy: null, fastest: null }], busy: null, costly: [], of: 'call' }
}

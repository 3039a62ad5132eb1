import type { Facts } from './facts'
import type { Cause } from './rank'

/** A second copy beside the far side, where the direct way cannot be had. */
export interface WayRound {
  /** What that copy has to reach, from where it stands. */
  reaches: string
}

/** Causes that lie on the way, where others than its ends decide about it. */
const onTheWay = new Set([
  ...['no-route', 'router-silent', 'no-way-back', 'behind-translation', 'port-filtered', 'udp-filtered'],
  ...['broadcast-ends', 'not-from-here', 'idle-cut', 'packets-lost', 'packet-size'],
])

/** Null: the stop is no matter of the way, or both stand in one network, where a second copy would reach no more. */
export const wayRoundOf = ({ goal, route, isPart }: Facts, causes: readonly Pick<Cause, 'id' | 'isRuledOut'>[]): WayRound | null => {
  const [first] = causes
  if (!goal || isPart || !first || first.isRuledOut || !onTheWay.has(first.id)) return null
  if (route && route.outcome !== 'through a router' && route.outcome !== 'none') return null
  return { reaches: `${goal.host}, ${goal.carries === 'udp' ? 'UDP' : 'TCP'} ${goal.port}` }
}

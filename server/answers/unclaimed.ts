import type { UnclaimedStatus } from '#shared/arrivals'
import { pageOfArray, type PageAsked } from '#core/lists/paged'

/** A page of what nobody claims. */
export const pageOfUnclaimed = ({ topics, gaveWay }: UnclaimedStatus, query: PageAsked<'perSecond' | 'topic' | 'count' | 'at'>) => ({
  ...pageOfArray(topics, query, {
    text: ({ topic, last }) => `${topic} ${last}`,
    by: { perSecond: (one) => one.perSecond, topic: (one) => one.topic, count: (one) => one.count, at: (one) => one.at },
  }),
  gaveWay,
})

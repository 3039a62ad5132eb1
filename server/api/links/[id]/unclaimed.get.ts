import { listUnclaimed } from '#shared/api/links'
import { pageOfArray } from '../../../answers/page'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listUnclaimed, async ({ params, query }) => {
  const { topics, gaveWay } = valueOf(await engineClient.call((engine) => engine.unclaimed(params.id)))
  const page = pageOfArray(topics, query, {
    text: ({ topic, last }) => `${topic} ${last}`,
    by: { perSecond: (one) => one.perSecond, topic: (one) => one.topic, count: (one) => one.count, at: (one) => one.at },
  })
  return { ...page, gaveWay }
})

import { listRuns } from '#shared/api/bridges'
import { pageOfArray } from '#core/lists/paged'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listRuns, async ({ params, query }) =>
  pageOfArray(valueOf(await engineClient.call((engine) => engine.bridgeRuns(params.id))), query, {
    text: ({ by, outcome, sent }) => `${by} ${outcome} ${sent.map(({ text }) => text).join(' ')}`,
    by: { number: ({ number }) => number },
  }),
)

import { listRefused } from '#shared/api/bridges'
import { pageOfArray } from '#core/lists/paged'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listRefused, async ({ params, query }) =>
  pageOfArray(valueOf(await engineClient.call((engine) => engine.refusedRecords(params.id))), query, {
    text: ({ fields, fault }) => `${fault.what} ${fields.map(({ into, text }) => `${into} ${text}`).join(' ')}`,
    by: { at: ({ at }) => at, destination: ({ destination }) => destination },
  }),
)

import { showTable } from '#shared/api/links'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(showTable, async ({ params, body }) =>
  valueOf(await engineClient.call((engine) => engine.table(params.id, body))),
)

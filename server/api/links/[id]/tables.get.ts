import { listTables } from '#shared/api/links'
import { pageOfArray } from '#core/lists/paged'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(listTables, async ({ params, query }) =>
  pageOfArray(valueOf(await engineClient.call((engine) => engine.tables(params.id))), query, {
    text: ({ schema, table }) => `${schema}.${table}`,
    by: { table: ({ table }) => table, schema: ({ schema }) => schema },
  }),
)

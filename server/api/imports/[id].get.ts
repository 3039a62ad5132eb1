import { showImport } from '#shared/api/imports'
import { defineRoute } from '../../answers/route'
import { importBook } from '../../imports/importBook'

export default defineRoute(showImport, async ({ params, query }) => {
  const staged = importBook.get(params.id)
  await staged.wait(query.wait)
  return staged.status()
})

import { applyImport } from '#shared/api/imports'
import { defineRoute } from '../../../answers/route'
import { importBook } from '../../../imports/importBook'

export default defineRoute(applyImport, ({ params, body }) => {
  const staged = importBook.get(params.id)
  staged.apply(new Set(body.without))
  return staged.status()
})

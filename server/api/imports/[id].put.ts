import { readImportAgain } from '#shared/api/imports'
import { defineRoute } from '../../answers/route'
import { importBook } from '../../imports/importBook'

export default defineRoute(readImportAgain, ({ params, body }) => {
  const staged = importBook.get(params.id)
  staged.readAgain(body)
  return staged.status()
})

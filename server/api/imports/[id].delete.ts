import { putImportAway } from '#shared/api/imports'
import { defineRoute } from '../../answers/route'
import { importBook } from '../../imports/importBook'

export default defineRoute(putImportAway, async ({ params }) => ({ revision: await importBook.putAway(params.id) }))

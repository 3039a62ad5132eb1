import { listImports } from '#shared/api/imports'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { importBook } from '../../imports/importBook'

export default defineRoute(listImports, ({ query }) =>
  pageOfArray(
    importBook.all().map((staged) => staged.status()),
    query,
    { text: ({ name, who }) => `${name} ${who}`, by: { id: ({ id }) => id, name: ({ name }) => name, who: ({ who }) => who } },
  ),
)

import { fault } from '#core/faults/catalogue'
import { listImportLines } from '#shared/api/imports'
import { pageOfArray } from '#core/lists/paged'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { importBook } from '../../../imports/importBook'
import { shownLine } from '../../../imports/shownLine'

export default defineRoute(listImportLines, ({ params, query }) => {
  const staged = importBook.get(params.id)
  if (staged.isBusy) throw new Refusal(fault('import.busy', { name: staged.name }))
  const { lines, links } = staged
  const page = pageOfArray(query.what ? lines.filter(({ what }) => what === query.what) : lines, query, {
    text: ({ path }) => path,
    by: { line: ({ line }) => line ?? Infinity, path: ({ path }) => path },
  })
  return { ...page, items: links ? page.items.map((planned) => shownLine(planned, links)) : [] }
})

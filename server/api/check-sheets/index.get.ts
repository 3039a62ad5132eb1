import { pageOfArray } from '#core/lists/paged'
import { listCheckSheets } from '#shared/api/checks'
import { defineRoute } from '../../answers/route'
import { shownSheets } from '../../checks/sheets'
import { database } from '../../store/database'

export default defineRoute(listCheckSheets, async ({ query }) => {
  const rows = await database().selectFrom('check_sheet').selectAll().execute()
  const page = pageOfArray(rows, query, {
    text: ({ name, against, note }) => `${name} ${against} ${note}`,
    by: { id: ({ id }) => id, name: ({ name }) => name },
  })
  return { ...page, items: await shownSheets(page.items) }
})

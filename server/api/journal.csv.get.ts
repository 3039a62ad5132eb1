import { setResponseHeaders } from 'h3'
import { journalCsv } from '#shared/api/journal'
import { defineRoute } from '../answers/route'
import { journalFile } from '../journal/file'

export default defineRoute(journalCsv, ({ event, query }) => {
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="journal.csv"' })
  return journalFile('csv', query)
})

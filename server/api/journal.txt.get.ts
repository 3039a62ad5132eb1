import { setResponseHeaders } from 'h3'
import { journalText } from '#shared/api/journal'
import { defineRoute } from '../answers/route'
import { journalFile } from '../journal/file'

export default defineRoute(journalText, ({ event, query }) => {
  setResponseHeaders(event, { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': 'attachment; filename="journal.txt"' })
  return journalFile('text', query)
})

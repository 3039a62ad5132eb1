import { setResponseHeaders } from 'h3'
import { journalLines } from '#shared/api/journal'
import { defineRoute } from '../answers/route'
import { journalFile } from '../journal/file'

export default defineRoute(journalLines, ({ event, query }) => {
  setResponseHeaders(event, { 'content-type': 'application/x-ndjson', 'content-disposition': 'attachment; filename="journal.jsonl"' })
  return journalFile('lines', query)
})

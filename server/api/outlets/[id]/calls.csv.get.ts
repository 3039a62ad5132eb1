import { setResponseHeaders } from 'h3'
import { callsCsv } from '#shared/api/calls'
import { defineRoute } from '../../../answers/route'
import { callsFile } from '../../../calls/file'

export default defineRoute(callsCsv, async ({ event, params, query }) => {
  const file = await callsFile(params.id, 'csv', query)
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="calls.csv"' })
  return file
})

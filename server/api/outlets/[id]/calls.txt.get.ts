import { setResponseHeaders } from 'h3'
import { callsText } from '#shared/api/calls'
import { defineRoute } from '../../../answers/route'
import { callsFile } from '../../../calls/file'

export default defineRoute(callsText, async ({ event, params, query }) => {
  const file = await callsFile(params.id, 'text', query)
  setResponseHeaders(event, { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': 'attachment; filename="calls.txt"' })
  return file
})

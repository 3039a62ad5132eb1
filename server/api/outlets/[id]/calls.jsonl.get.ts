import { setResponseHeaders } from 'h3'
import { callsLines } from '#shared/api/calls'
import { defineRoute } from '../../../answers/route'
import { callsFile } from '../../../calls/file'

export default defineRoute(callsLines, async ({ event, params, query }) => {
  const file = await callsFile(params.id, 'lines', query)
  setResponseHeaders(event, {
    'content-type': 'application/jsonl; charset=utf-8',
    'content-disposition': 'attachment; filename="calls.jsonl"',
  })
  return file
})

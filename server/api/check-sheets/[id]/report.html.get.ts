import { setResponseHeaders } from 'h3'
import { reportPage } from '#core/checks/reportPage'
import { reportCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { reportOf } from '../../../checks/report'

export default defineRoute(reportCheckSheet, async ({ event, params: { id } }) => {
  const page = reportPage(await reportOf(id))
  setResponseHeaders(event, {
    'content-type': 'text/html; charset=utf-8',
    'content-disposition': `attachment; filename="check-sheet-${id}.html"`,
  })
  return page
})

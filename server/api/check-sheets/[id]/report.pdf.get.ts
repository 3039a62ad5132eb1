import { setResponseHeaders } from 'h3'
import { printCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { reportOf } from '../../../checks/report'
import { printed } from '../../../worker/printing'

export default defineRoute(printCheckSheet, async ({ event, params: { id } }) => {
  const bytes = await printed(await reportOf(id))
  setResponseHeaders(event, {
    'content-type': 'application/pdf',
    'content-disposition': `attachment; filename="check-sheet-${id}.pdf"`,
  })
  return bytes
})

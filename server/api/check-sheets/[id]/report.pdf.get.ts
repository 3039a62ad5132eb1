import { setResponseHeaders } from 'h3'
import { printCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { reportOf } from '../../../checks/report'
import { tagWorker } from '../../../worker/tagWorker'

export default defineRoute(printCheckSheet, async ({ event, params: { id } }) => {
  const texts = await reportOf(id)
  const bytes = await tagWorker.call((worker) => worker.printReport(texts, Date.now()))
  setResponseHeaders(event, {
    'content-type': 'application/pdf',
    'content-disposition': `attachment; filename="check-sheet-${id}.pdf"`,
  })
  return bytes
})

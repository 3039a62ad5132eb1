import { setResponseHeaders } from 'h3'
import { idOf, rowOf } from '../../../lib/configuration'
import { listedNames, namesAsCsv } from '../../../lib/names'
import { shownOutlet } from '../../../lib/outlets'
import { defineRoute } from '../../../lib/refusal'

/** The short names as a file. */
export default defineRoute('look', async (event) => {
  const outlet = shownOutlet(await rowOf('outlet', idOf(event)))
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': `attachment; filename="short-names-${outlet.id}.csv"`,
  })
  return namesAsCsv(await listedNames(outlet))
})

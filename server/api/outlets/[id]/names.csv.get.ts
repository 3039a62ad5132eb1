import { setResponseHeaders } from 'h3'
import { idOf, rowOf } from '../../../store/configuration'
import { listedNames, namesAsCsv } from '../../../outlets/names'
import { shownOutlet } from '../../../outlets/outlets'
import { defineRoute } from '../../../answers/refusal'

/** The short names as a file. */
export default defineRoute('look', async (event) => {
  const outlet = shownOutlet(await rowOf('outlet', idOf(event)))
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': `attachment; filename="short-names-${outlet.id}.csv"`,
  })
  return namesAsCsv(await listedNames(outlet))
})

import { setResponseHeaders } from 'h3'
import { namesFile } from '#shared/api/outlets'
import { defineRoute } from '../../../answers/route'
import { listedNames, namesAsCsv } from '../../../outlets/names'
import { shownOutlet } from '../../../outlets/outlets'
import { rowOf } from '../../../store/configuration'

export default defineRoute(namesFile, async ({ event, params }) => {
  const outlet = shownOutlet(await rowOf('outlet', params.id))
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': `attachment; filename="short-names-${outlet.id}.csv"`,
  })
  return namesAsCsv(await listedNames(outlet))
})

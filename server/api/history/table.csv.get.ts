import { setResponseHeaders } from 'h3'
import { historyCsv } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { seriesFacts } from '../../history/series'
import { csvTable } from '../../history/table'
import { historyReader } from '../../store/history'

export default defineRoute(historyCsv, async ({ event, query: { series, from, to, of, delimiter, decimal } }) => {
  const facts = await seriesFacts(series)
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="history.csv"' })
  return csvTable(historyReader(), { series: facts, from, to, of }, { delimiter, decimal })
})

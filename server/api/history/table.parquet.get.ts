import { setResponseHeaders } from 'h3'
import { fault } from '#core/faults/catalogue'
import { historyParquet } from '#shared/api/history'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { seriesFacts } from '../../history/series'
import { mostParquetRows, parquetTable } from '../../history/table'
import { historyReader } from '../../store/history'

export default defineRoute(historyParquet, async ({ event, query: { series, from, to, of } }) => {
  const table = await parquetTable(historyReader(), { series: await seriesFacts(series), from, to, of })
  if (!table) throw new Refusal(fault('history.too-many', { most: mostParquetRows }))
  setResponseHeaders(event, {
    'content-type': 'application/vnd.apache.parquet',
    'content-disposition': 'attachment; filename="history.parquet"',
  })
  return table
})

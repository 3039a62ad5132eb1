import { drawHistory } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { seriesFacts } from '../../history/series'
import { historyReader } from '../../store/history'

export default defineRoute(drawHistory, async ({ body: { series, from, to, columns } }) => {
  const facts = await seriesFacts(series)
  const pictures = new Map((await historyReader().pictures(series, from, to, columns)).map((picture) => [picture.id, picture]))
  return facts.map((known) => ({ ...known, ...pictures.get(known.id)! }))
})

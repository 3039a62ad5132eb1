import { drawHistory } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { picturesOf } from '../../history/pictures'
import { seriesFacts } from '../../history/series'

export default defineRoute(drawHistory, async ({ body: { series, from, to, columns } }) =>
  picturesOf(await seriesFacts(series), from, to, columns),
)

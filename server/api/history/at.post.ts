import { valuesAt } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { historyReader } from '../../store/history'

export default defineRoute(valuesAt, async ({ body: { series, times } }) => {
  const found = await historyReader().at(series, times)
  return series.map((id) => ({
    id,
    samples: (found.get(id) ?? []).map(
      (sample) =>
        sample && {
          at: sample.at,
          quality: sample.quality,
          number: Number.isFinite(sample.number) ? sample.number : null,
          text: sample.text,
        },
    ),
  }))
})

import { z } from 'zod'
import { mostTrendSets, trendSet, trendSetDraft } from '../trendSet'
import { listQuery, pageOf } from './lists'
import { operation } from './operation'

const group = 'Trends'
const own = ['access.people-only'] as const
const example: z.input<typeof trendSetDraft> = {
  name: 'Berth 2, a ship’s call',
  shared: true,
  content: { series: [{ id: 12 }], span: { kind: 'live', length: 600_000 } },
}

export const listTrendSets = operation('GET /trend-sets', {
  group,
  needs: 'look',
  does: 'Your sets of trends, and those that others share.',
  query: listQuery(['name', 'owner', 'id'], 500),
  answer: pageOf(trendSet),
  faults: [...own],
})

export const showTrendSet = operation('GET /trend-sets/{id}', {
  group,
  needs: 'look',
  does: 'A set of trends.',
  answer: trendSet,
  faults: [...own, 'trends.not-there'],
})

export const makeTrendSet = operation('POST /trend-sets', {
  group,
  needs: 'look',
  does: `Keeps what is drawn together under a name; each person may have ${mostTrendSets}.`,
  body: trendSetDraft,
  example,
  answer: trendSet,
  faults: [...own, 'entry.taken', 'watch.full'],
})

export const changeTrendSet = operation('PUT /trend-sets/{id}', {
  group,
  needs: 'look',
  does: 'Changes one of your sets of trends, or shares it.',
  body: trendSetDraft,
  example,
  answer: trendSet,
  faults: [...own, 'trends.not-there', 'entry.taken'],
})

export const removeTrendSet = operation('DELETE /trend-sets/{id}', {
  group,
  needs: 'look',
  does: 'Removes one of your sets of trends. What was recorded stays.',
  answer: z.object({ removed: z.int() }),
  faults: [...own, 'trends.not-there'],
})

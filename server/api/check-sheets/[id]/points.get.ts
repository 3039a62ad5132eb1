import { pointStates } from '#core/checks/state'
import { pageOfArray } from '#core/lists/paged'
import { listCheckPoints } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { countPoints, pointsOf } from '../../../checks/points'
import { sheetRow } from '../../../checks/sheets'

export default defineRoute(listCheckPoints, async ({ params: { id }, query: { state, after, ...query } }) => {
  await sheetRow(id)
  const { find, sort, offset, limit } = query
  // by their paths they come a part at a time, however many there are
  if (!state && !find && after === undefined && sort === 'path')
    return { total: await countPoints(id), offset, items: await pointsOf(id, undefined, { part: { offset, limit } }) }
  const points = (await pointsOf(id, undefined, { after })).filter((point) => !state || point.state === state)
  return pageOfArray(points, query, {
    text: ({ path, source, last }) => `${path} ${source} ${last?.remark ?? ''} ${last?.who ?? ''}`,
    by: { path: ({ path }) => path, state: (point) => pointStates.indexOf(point.state) },
  })
})

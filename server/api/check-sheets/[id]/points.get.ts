import { pointStates } from '#core/checks/state'
import { pageOfArray } from '#core/lists/paged'
import { listCheckPoints } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { pointsOf, sheetRow } from '../../../checks/sheets'

export default defineRoute(listCheckPoints, async ({ params: { id }, query: { state, ...query } }) => {
  await sheetRow(id)
  const points = (await pointsOf(id)).filter((point) => !state || point.state === state)
  return pageOfArray(points, query, {
    text: ({ path, source, last }) => `${path} ${source} ${last?.remark ?? ''} ${last?.who ?? ''}`,
    by: { path: ({ path }) => path, state: (point) => pointStates.indexOf(point.state) },
  })
})

import { showPast } from '#shared/api/equipment'
import { defineRoute } from '../../../answers/route'
import { shownEquipmentRow } from '../../../equipment/model'
import { pastOf } from '../../../equipment/past'
import { rowOf } from '../../../store/configuration'

export default defineRoute(showPast, async ({ params }) => {
  const offered = await pastOf(shownEquipmentRow(await rowOf('equipment', params.id)))
  const inputs = offered.map(({ input, from, to, samples }) => ({ path: input.path, bound: input.bound.path, from, to, samples }))
  return { samples: inputs.reduce((sum, { samples }) => sum + samples, 0), inputs }
})

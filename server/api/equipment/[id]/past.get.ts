import { showPast } from '#shared/api/equipment'
import { defineRoute } from '../../../answers/route'
import { shownEquipmentRow } from '../../../equipment/model'
import { pastOf, samplesIn } from '../../../equipment/past'
import { rowOf } from '../../../store/configuration'

export default defineRoute(showPast, async ({ params }) => {
  const { inputs, workedOut } = await pastOf(shownEquipmentRow(await rowOf('equipment', params.id)))
  return {
    samples: samplesIn({ inputs, workedOut }),
    inputs: inputs.map(({ input, from, to, samples }) => ({ path: input.path, bound: input.bound.path, from, to, samples })),
    workedOut: workedOut.map(({ property, from, to, samples }) => ({ path: property.path, from, to, samples })),
  }
})

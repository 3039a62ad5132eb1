import { takePast } from '#shared/api/equipment'
import { defineRoute } from '../../../answers/route'
import { shownEquipmentRow } from '../../../equipment/model'
import { pastOf, samplesIn, takePastAlong } from '../../../equipment/past'
import { rowOf } from '../../../store/configuration'

export default defineRoute(takePast, async ({ params }) => {
  const piece = shownEquipmentRow(await rowOf('equipment', params.id))
  const samples = await takePastAlong(piece)
  return { samples, left: samplesIn(await pastOf(piece)) }
})

import { previewRecordSet } from '#shared/api/recordSets'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { requireSoundSet } from '../../records/recordSets'
import { engineClient } from '../../runtime/engineClient'
import { database } from '../../store/database'

export default defineRoute(previewRecordSet, async ({ body: { recordSet, setId, run } }) => {
  await requireSoundSet(database(), recordSet, setId)
  return valueOf(await engineClient.call((engine) => engine.previewRecordSet(recordSet, setId, run)))
})

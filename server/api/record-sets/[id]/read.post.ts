import { readRecordSet } from '#shared/api/recordSets'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(readRecordSet, async ({ params }) =>
  valueOf(await engineClient.call((engine) => engine.readRecordSet(params.id))),
)

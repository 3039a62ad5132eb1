import { showRecordSet } from '#shared/api/recordSets'
import { defineRoute } from '../../answers/route'
import { shownSet } from '../../records/recordSets'
import { rowOf } from '../../store/configuration'

export default defineRoute(showRecordSet, async ({ params }) => shownSet(await rowOf('recordSet', params.id)))

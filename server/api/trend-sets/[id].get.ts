import { showTrendSet } from '#shared/api/trendSets'
import { requirePerson } from '../../access/ownThings'
import { defineRoute } from '../../answers/route'
import { setFor } from '../../trends/trendSets'

export default defineRoute(showTrendSet, ({ event, params: { id } }) => setFor(requirePerson(event), id))

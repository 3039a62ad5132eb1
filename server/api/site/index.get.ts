import { showSite } from '#shared/api/site'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(showSite, () => database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow())

import { returnTo } from '#db/takeBack'
import { returnToRevision } from '#shared/api/site'
import { defineRoute } from '../../../answers/route'
import { whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'
import { revisionOr } from '../../../store/takenBack'

export default defineRoute(returnToRevision, async ({ event, params: { number } }) =>
  revisionOr(`after ${number}`, await returnTo(database(), whoIs(event), number)),
)

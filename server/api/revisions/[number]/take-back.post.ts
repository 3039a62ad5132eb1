import { takeBack } from '#db/takeBack'
import { takeBackRevision } from '#shared/api/site'
import { defineRoute } from '../../../answers/route'
import { whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'
import { revisionOr } from '../../../store/takenBack'

export default defineRoute(takeBackRevision, async ({ event, params: { number } }) =>
  revisionOr(String(number), await takeBack(database(), whoIs(event), number)),
)

import { takeBack } from '#db/takeBack'
import { takeBackRevisions } from '#shared/api/site'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { revisionOr } from '../../store/takenBack'

export default defineRoute(takeBackRevisions, async ({ event, body: { numbers } }) =>
  revisionOr(numbers.join(', '), await takeBack(database(), whoIs(event), numbers)),
)

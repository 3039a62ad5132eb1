import { proposals } from '#core/equipment/proposals'
import { passedOnType } from '#core/tags/types'
import { thingsOf } from '#db/rows'
import { proposeBindings } from '#shared/api/equipment'
import { isWithin } from '#core/tags/path'
import { isFrom } from '#shared/sources/registry'
import { defineRoute } from '../../answers/route'
import { modelNow } from '../../equipment/model'
import { database } from '../../store/database'

export default defineRoute(proposeBindings, async ({ body: { class: name, folder } }) => {
  const properties = (await modelNow(database())).propertiesOf(name)
  const tags = thingsOf('tag', await database().selectFrom('tag').selectAll().orderBy('path').execute())
  const within = tags.filter((tag) => !isFrom('property', tag) && (folder === '' || isWithin(tag.path, folder)))
  return proposals(
    properties,
    within.map(({ path, type, unit, scaling }) => ({ path, unit, type: passedOnType(type, scaling !== null) })),
  )
})

import { fault } from '#core/faults/catalogue'
import { thingOf } from '#db/rows'
import { tryTag } from '#shared/api/tags'
import { pointOf } from '#shared/sources/point'
import { tagProblems } from '#shared/sources/registry'
import { invalid } from '../../answers/checked'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'
import { database } from '../../store/database'

export default defineRoute(tryTag, async ({ body: { tag } }) => {
  const row = await database().selectFrom('link').selectAll().where('id', '=', tag.source.linkId).executeTakeFirst()
  if (!row) throw new Refusal(fault('entry.gone', { thing: 'link', id: tag.source.linkId }))
  const link = thingOf('link', row)
  const problems = tagProblems({ ...tag, path: '' }, () => link)
  if (problems.length > 0) throw invalid(problems)
  return engineClient.call((engine) => engine.tryRead(link, pointOf(tag)))
})

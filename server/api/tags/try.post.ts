import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import { thingOf } from '#db/rows'
import { pointOf, pointSource } from '#shared/sources/point'
import { tagProblems } from '#shared/sources/registry'
import { tagDraft } from '#shared/tags'
import { database } from '../../store/database'
import { engineClient } from '../../runtime/engineClient'
import { bodyOf, defineRoute, invalid, Refusal } from '../../answers/refusal'

const body = z.object({ tag: tagDraft.omit({ path: true }).extend({ source: pointSource }) })

/** Reads an address once without making a tag, and shows every reading of the words that came. */
export default defineRoute('configure', async (event) => {
  const { tag } = await bodyOf(event, body)
  const row = await database().selectFrom('link').selectAll().where('id', '=', tag.source.linkId).executeTakeFirst()
  if (!row) throw new Refusal(fault('entry.gone', { thing: 'link', id: tag.source.linkId }))
  const link = thingOf('link', row)
  const problems = tagProblems({ ...tag, path: '' }, () => link)
  if (problems.length > 0) throw invalid(problems)
  return engineClient.call((engine) => engine.tryRead(link, pointOf(tag)))
})

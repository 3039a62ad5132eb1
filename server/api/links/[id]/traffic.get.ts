import { z } from 'zod'
import { numberText } from '#shared/fields'
import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { defineRoute, queryOf, valueOf } from '../../../answers/refusal'

const query = z.object({ after: numberText(0, Number.MAX_SAFE_INTEGER).optional(), limit: numberText(1, 1000).default(500) })

/** What passed at its connections since frame `after`; without it, from now on. It is copied as long as somebody asks. */
export default defineRoute('configure', async (event) => {
  const { after, limit } = queryOf(event, query)
  const id = idOf(event)
  return valueOf(await engineClient.call((engine) => engine.traffic('link', id, after ?? null, limit)))
})

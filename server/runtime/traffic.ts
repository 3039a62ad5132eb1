import { z } from 'zod'
import { numberText } from '#shared/fields'
import { defineRoute, queryOf, valueOf } from '../answers/refusal'
import { idOf } from '../store/configuration'
import { engineClient } from './engineClient'

const query = z.object({ after: numberText(0, Number.MAX_SAFE_INTEGER).optional(), limit: numberText(1, 1000).default(500) })

/** What passed since frame `after`; without it, from now on. It is copied as long as somebody asks. */
export const trafficRoute = (of: 'link' | 'outlet') =>
  defineRoute('configure', async (event) => {
    const { after, limit } = queryOf(event, query)
    const id = idOf(event)
    return valueOf(await engineClient.call((engine) => engine.traffic(of, id, after ?? null, limit)))
  })

import { fault } from '#core/faults/catalogue'
import { settleDatabase } from '#shared/api/site'
import { requireWho } from '../../access/access'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

const mostMs = 120_000

export default defineRoute(settleDatabase, async ({ body, event }) => {
  const { name } = requireWho(event)
  const settled = await engineClient.call((engine) => engine.settleDatabase(body.take, name), mostMs)
  if (!settled) throw new Refusal(fault('site.not-held', {}))
  return settled
})

import { setResponseHeaders } from 'h3'
import { handoverPack as operation } from '#shared/api/site'
import { requireWho } from '../../access/access'
import { defineRoute } from '../../answers/route'
import { handoverPack } from '../../handover/pack'
import { recordDeed } from '../../journal/deeds'
import { engineClient } from '../../runtime/engineClient'
import { version } from '~~/package.json'

export default defineRoute(operation, async ({ event, query }) => {
  const at = Date.now()
  const facts = await engineClient.call((engine) => engine.caseFacts())
  const { name } = requireWho(event)
  const pack = await handoverPack(facts, { by: name, version, at, traffic: query.traffic ?? null })
  await recordDeed(event, { who: name, kind: 'took along', what: 'A handover pack' })
  const day = new Date(at).toISOString().slice(0, 16).replace(/[T:]/g, '-')
  setResponseHeaders(event, { 'content-type': 'application/zip', 'content-disposition': `attachment; filename="handover-${day}.zip"` })
  return pack
})

import { fault } from '#core/faults/catalogue'
import { readOnBench } from '#shared/api/bench'
import { requirePerson } from '../../../access/ownThings'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { entryOf, linksById, noteResult } from '../../../bench/bench'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(readOnBench, async ({ event, params: { id } }) => {
  const { linkId, address, type, options } = await entryOf(requirePerson(event), id)
  const link = (await linksById([linkId])).get(linkId)
  if (!link) throw new Refusal(fault('entry.gone', { thing: 'link', id: linkId }))
  const origin = await engineClient.call((engine) => engine.tryRead(link, { address, type, options, access: 'read', interval: null }))
  const { stages, fault: why } = origin
  const result = { ok: why === null, text: why?.what ?? stages.at(-1)?.text ?? '', came: stages[0]?.text ?? '' }
  return { entry: await noteResult(id, { did: 'read', at: Date.now(), ...result }), origin }
})

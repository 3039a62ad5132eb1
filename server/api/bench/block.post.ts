import { fault } from '#core/faults/catalogue'
import { protocolOf } from '#core/links/registry'
import { layBlockOut } from '#shared/api/bench'
import type { BenchBlock } from '#shared/bench'
import type { Link } from '#shared/links/link'
import { invalid } from '../../answers/checked'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { linksById } from '../../bench/bench'
import { engineClient } from '../../runtime/engineClient'
import { tagWorker } from '../../worker/tagWorker'

export default defineRoute(layBlockOut, async ({ body }) => {
  const { linkId, interval, open } = body
  const link = (await linksById([linkId])).get(linkId)
  if (!link) throw new Refusal(fault('entry.gone', { thing: 'link', id: linkId }))
  const addresses = registersFrom(link, body)
  const block = await engineClient.call((engine) => engine.benchBlock(linkId, addresses, interval))
  return tagWorker.call((worker) => worker.layOut(block, { kind: link.kind, addresses, open }))
})

/** The addresses of so many registers in a row. */
const registersFrom = ({ kind, settings }: Link, { address, count }: BenchBlock): string[] => {
  const protocol = protocolOf(kind)
  const problem = (path: string, message: string) => invalid([{ path, message }])
  if (!protocol.words) throw problem('linkId', 'The points of this link are no registers; its far side tells what they are.')
  const facts = protocol.describe(address, settings)
  if (!facts.ok) throw problem('address', facts.problem)
  if (!facts.types.includes('float32')) throw problem('address', 'Single bits have no layout; choose registers.')
  const first = { address: facts.canonical, type: 'uint16' as const, options: {}, access: 'read' as const }
  const all = Array.from({ length: count }, (_, i) => (i === 0 ? facts.canonical : (protocol.next(first, i) ?? '')))
  const last = protocol.describe(all.at(-1)!, settings)
  if (!last.ok) throw problem('count', `The table ends before so many registers: ${last.problem}`)
  return all
}

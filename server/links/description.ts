import { fault } from '#core/faults/catalogue'
import type { ApiDescription } from '#shared/links/webCall'
import type { LinkDraft } from '#shared/links/link'
import { Refusal, valueOf } from '../answers/refusal'
import { engineClient } from '../runtime/engineClient'
import { tagWorker } from '../worker/tagWorker'
import { pasted, type Documents } from '../worker/apiDescription'

const mostDocuments = 20
const mostText = 8_000_000

/** Reads a description of a web API; what it refers to is fetched from the host that it lies on, and from no other. */
export const apiDescriptionOf = async (link: LinkDraft, address: string, text: string): Promise<ApiDescription> => {
  const fetch = async (from: string) => ({
    address: from,
    text: valueOf(await engineClient.call((engine) => engine.fetchText(link, from))),
  })
  const place = address || 'The text'
  const refused = (problem: string) => new Refusal(fault('http.description', { place, problem }))
  if (address !== '' && !URL.canParse(address)) throw refused('this is no address')
  const documents: Documents = [text === '' ? await fetch(new URL(address).toString()) : { address: address || pasted, text }]
  for (;;) {
    if (documents.reduce((size, one) => size + one.text.length, 0) > mostText) throw refused(`it is larger than ${mostText / 1_000_000} MB`)
    const read = await tagWorker.call((worker) => worker.describe(documents))
    if (read.ok) return read.description
    if ('problem' in read) throw refused(read.problem)
    const next = read.wants[0]!
    if (address === '' || new URL(next).host !== new URL(address).host)
      throw refused(`it refers to ${next}, ${address === '' ? 'and nothing is known of where it was found' : 'which is on another host'}`)
    if (documents.length >= mostDocuments) throw refused(`it refers to more than ${mostDocuments} other documents`)
    documents.push(await fetch(next))
  }
}

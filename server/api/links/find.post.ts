import { linkTrial } from '#shared/links/link'
import { engineClient } from '../../lib/engineClient'
import { completeDraft } from '../../lib/links'
import { bodyOf, defineRoute, valueOf } from '../../lib/refusal'

/** Asks the far side of a draft which servers and ways in it offers. */
export default defineRoute('configure', async (event) => {
  const { link, linkId } = await bodyOf(event, linkTrial)
  const draft = await completeDraft(link, linkId)
  return valueOf(await engineClient.call((engine) => engine.find(draft)))
})

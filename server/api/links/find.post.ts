import { linkTrial } from '#shared/links/link'
import { withoutSecrets } from '#shared/secrets'
import { engineClient } from '../../runtime/engineClient'
import { bodyOf, defineRoute, valueOf } from '../../answers/refusal'

/** Asks the far side of a draft which servers and ways in it offers. */
export default defineRoute('configure', async (event) => {
  const { link } = await bodyOf(event, linkTrial)
  // whoever is asked which ways in there are needs no secret of ours
  const draft = { ...link, settings: withoutSecrets(link.settings) }
  return valueOf(await engineClient.call((engine) => engine.find(draft)))
})

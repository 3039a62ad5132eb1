import { findWaysIn } from '#shared/api/links'
import { withoutSecrets } from '#shared/secrets'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(findWaysIn, async ({ body: { link } }) => {
  // whoever is asked which ways in there are needs no secret of ours
  const draft = { ...link, settings: withoutSecrets(link.settings) }
  return valueOf(await engineClient.call((engine) => engine.find(draft)))
})

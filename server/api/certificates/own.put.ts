import { ownCertificateChange } from '#shared/certificates'
import { engineClient } from '../../runtime/engineClient'
import { bodyOf, defineRoute, valueOf } from '../../answers/refusal'

/** Takes another certificate and key as our own. Links use it from their next connection on. */
export default defineRoute('administer', async (event) => {
  const { certificate, key } = await bodyOf(event, ownCertificateChange)
  return valueOf(await engineClient.call((engine) => engine.replaceOwn(certificate, key)))
})

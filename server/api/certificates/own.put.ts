import { changeOwnCertificate } from '#shared/api/certificates'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(changeOwnCertificate, async ({ body: { certificate, key } }) =>
  valueOf(await engineClient.call((engine) => engine.replaceOwn(certificate, key))),
)

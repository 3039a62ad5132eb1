import { renewOwnCertificate } from '#shared/api/certificates'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(renewOwnCertificate, () => engineClient.call((engine) => engine.renewOwn()))

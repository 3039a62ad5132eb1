import { showOwnCertificate } from '#shared/api/certificates'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(showOwnCertificate, () => engineClient.call((engine) => engine.own()))

import { withdrawNodeCode } from '#shared/api/nodes'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(withdrawNodeCode, async ({ params: { id } }) => {
  valueOf(await engineClient.call((engine) => engine.withdrawNodeCode(id)))
  return { withdrawn: id }
})

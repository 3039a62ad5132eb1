import { z } from 'zod'
import { idOf } from '../../../store/configuration'
import { engineClient } from '../../../runtime/engineClient'
import { bodyOf, defineRoute } from '../../../answers/refusal'

/** Ends a client's session. It may come back; to keep it out, close the door. */
export default defineRoute('operate', async (event) => {
  const { client } = await bodyOf(event, z.object({ client: z.string() }))
  const disconnected = await engineClient.call((engine) => engine.disconnectClient(idOf(event), client))
  return { disconnected }
})

import { loadDescriptions } from '#shared/api/deviceDescriptions'
import { defineRoute } from '../../answers/route'
import { loadInto, readDescriptionFile } from '../../sensors/descriptions'
import { whoIs } from '../../store/configuration'

export default defineRoute(loadDescriptions, async ({ event, query, body }) =>
  loadInto(await readDescriptionFile(query.name, body as Uint8Array, query.language), whoIs(event)),
)

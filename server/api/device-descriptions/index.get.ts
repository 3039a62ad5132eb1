import { listDescriptions } from '#shared/api/deviceDescriptions'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { listedDescriptions } from '../../sensors/descriptions'

export default defineRoute(listDescriptions, async ({ query }) =>
  pageOfArray(await listedDescriptions(), query, {
    text: ({ name, vendorName }) => `${name} ${vendorName}`,
    by: {
      name: ({ name }) => name,
      vendorName: ({ vendorName }) => vendorName,
      vendorId: ({ vendorId }) => vendorId,
      deviceId: ({ deviceId }) => deviceId,
      id: ({ id }) => id,
      revision: ({ revision }) => revision,
    },
  }),
)

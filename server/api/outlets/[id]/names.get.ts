import { listNames } from '#shared/api/outlets'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../../answers/route'
import { listedNames } from '../../../outlets/names'
import { shownOutlet } from '../../../outlets/outlets'
import { rowOf } from '../../../store/configuration'

export default defineRoute(listNames, async ({ params, query }) => {
  const { names, left } = await listedNames(shownOutlet(await rowOf('outlet', params.id)))
  const page = pageOfArray(names, query, {
    text: ({ path, name }) => `${path} ${name}`,
    by: { path: ({ path }) => path, name: ({ name }) => name },
  })
  return { ...page, left }
})

import { listPrograms } from '#shared/api/links'
import { defineRoute } from '../../../answers/route'
import { programWatcher } from '../../../programs/watcher'
import { rowOf } from '../../../store/configuration'

export default defineRoute(listPrograms, async ({ params }) => {
  await rowOf('link', params.id)
  return programWatcher.of(params.id)
})

import { fault } from '#core/faults/catalogue'
import { loadLink } from '#shared/api/links'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { experienceOf } from '../../../worker/experience'
import { tagWorker } from '../../../worker/tagWorker'

export default defineRoute(loadLink, async ({ params: { id }, body: { link, tags } }) => {
  const seen = await experienceOf(id)
  const change = await tagWorker.call((worker) => worker.load(id, link?.settings ?? null, { set: tags, removed: [] }, seen))
  if (!change) throw new Refusal(fault('entry.gone', { thing: 'link', id }))
  return change
})

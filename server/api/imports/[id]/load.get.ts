import { fault } from '#core/faults/catalogue'
import { loadImport } from '#shared/api/imports'
import { isFrom } from '#shared/sources/registry'
import type { Planned } from '#shared/tagCsv/plan'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { importBook } from '../../../imports/importBook'
import { experienceOf } from '../../../worker/experience'
import type { Meant } from '../../../worker/siteLoad'
import { tagWorker } from '../../../worker/tagWorker'

export default defineRoute(loadImport, async ({ params: { id } }) => {
  const staged = importBook.get(id)
  if (staged.isBusy) throw new Refusal(fault('import.busy', { name: staged.name }))
  const { lines, links } = staged
  const meant = meantBy(lines)
  const found = []
  for (const linkId of touchedLinks(lines)) {
    const seen = await experienceOf(linkId)
    const change = await tagWorker.call((worker) => worker.load(linkId, null, meant, seen))
    if (change) found.push({ id: linkId, name: links?.nameOf(linkId) ?? '', ...change })
  }
  return found
})

const meantBy = (lines: readonly Planned[]): Meant => {
  const meant: Meant = { set: [], removed: [] }
  for (const line of lines) {
    if (line.what === 'added') meant.set.push({ id: null, tag: line.draft })
    if (line.what === 'changed') meant.set.push({ id: line.tag.id, tag: line.draft })
    if (line.what === 'removed') meant.removed.push(line.tag.id)
  }
  return meant
}

/** Links whose rounds may become others. */
const touchedLinks = (lines: readonly Planned[]): number[] => {
  const found = new Set<number>()
  const add = (tag: Parameters<typeof isFrom>[1]) => isFrom('point', tag) && found.add((tag.source as { linkId: number }).linkId)
  for (const line of lines) {
    if (line.what === 'added' || line.what === 'changed') add(line.draft)
    if (line.what === 'changed' || line.what === 'removed') add(line.tag)
  }
  return [...found].sort((a, b) => a - b)
}

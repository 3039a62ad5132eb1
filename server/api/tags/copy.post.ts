import { protocolOf } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { isWithin, movedPath, pathProblem } from '#core/tags/path'
import { changeConfiguration } from '#db/configuration'
import { thingsOf } from '#db/rows'
import { copyTags } from '#shared/api/tags'
import { isFrom, rulesOf } from '#shared/sources/registry'
import type { Tag, TagDraft } from '#shared/tags'
import { invalid } from '../../answers/checked'
import { defineRoute } from '../../answers/route'
import { linksNow, type LinksNow } from '../../imports/linksNow'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { plain } from '../../store/likeText'
import { settleTags } from '../../tags/tags'

export default defineRoute(copyTags, async ({ event, body: { from, to, linkId, unit } }) => {
  const wrong = pathProblem(to)
  if (wrong) throw invalid([{ path: 'to', message: wrong }])
  if (isWithin(to, from) && to !== from) throw invalid([{ path: 'to', message: 'A folder is not copied into itself.' }])
  const links = await linksNow()
  const change = changeConfiguration(database(), whoIs(event), `Copied ${from} to ${to}`, async (editor) => {
    const rows = await editor.db
      .selectFrom('tag')
      .selectAll()
      .where((eb) => eb.or([eb('path', '=', from), eb('path', 'like', `${plain(from)}/%`)]))
      .orderBy('id')
      .execute()
    if (rows.length === 0) throw invalid([{ path: 'from', message: `Nothing is called ${from}, and nothing lies in it.` }])
    const tags = thingsOf('tag', rows).filter((tag) => !rulesOf(tag.source.kind).isMade)
    if (tags.length === 0)
      throw invalid([{ path: 'from', message: 'Record sets make their tags by themselves: make another set instead.' }])
    const drafts = tags.map((tag) => copyOf(tag, { from, to, linkId, unit }, links))
    const ready = await settleTags(editor.db, drafts, (i) => `${drafts[i]!.path}: `)
    editor.what = `Copied ${counted(tags.length, 'tag')} from ${from} to ${to}`
    await editor.insertUnseen('tag', ready, () => {})
    return tags.length
  })
  const { result, revision } = await namesTaken('tag', to, 'to', change)
  return { tags: result, revision }
})

interface Meant {
  from: string
  to: string
  linkId: number | null
  unit: string | null
}

const copyOf = ({ id: _id, revision: _revision, ...tag }: Tag, { from, to, linkId, unit }: Meant, links: LinksNow): TagDraft => {
  const nowCalled = (path: string) => movedPath(path, from, to)
  const draft: TagDraft = { ...tag, path: nowCalled(tag.path), accepted: [] }
  if (!isFrom('point', draft)) return { ...draft, source: rulesOf(tag.source.kind).paths?.renamed(tag.source, nowCalled) ?? tag.source }
  const link = links.linkOf(linkId ?? draft.source.linkId)
  const address = unit === null || !link ? draft.source.address : protocolOf(link.kind).onUnit(draft.source.address, unit)
  if (address === null) throw invalid([{ path: 'unit', message: `${draft.source.address} has no unit “${unit}”.` }])
  return { ...draft, source: { ...draft.source, linkId: linkId ?? draft.source.linkId, address } }
}

import { setResponseHeaders } from 'h3'
import { Turns } from '#pacing/turns'
import { writeSite } from '#db/siteText/write'
import { siteText } from '#shared/api/site'
import { invalid } from '../../answers/checked'
import { defineRoute } from '../../answers/route'
import { partOf } from '../../siteText/part'
import { siteNow } from '../../siteText/siteNow'
import { database } from '../../store/database'

export default defineRoute(siteText, async ({ event, query: { only, folder, link } }) => {
  const { name, things } = await siteNow(database())
  const part = folder === undefined && link === undefined ? null : { ...(folder && { folder }), ...(link && { link }) }
  const lists = partOf(things, only ?? null, part ?? {})
  if (typeof lists === 'string') throw invalid([{ path: 'only', message: lists }])
  const pieces: string[] = []
  const turns = new Turns()
  for (const piece of writeSite(only || part ? null : name, part, lists, things)) {
    pieces.push(piece)
    if (turns.isOver) await turns.next()
  }
  setResponseHeaders(event, {
    'content-type': 'application/yaml; charset=utf-8',
    'content-disposition': 'attachment; filename="site.yaml"',
  })
  return pieces.join('')
})

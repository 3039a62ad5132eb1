import { setResponseHeaders } from 'h3'
import { tagTable as showTagTable } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { linksNow } from '../../imports/linksNow'
import { matchingTags } from '../../tags/matching'
import { tagTable } from '../../tags/tagTable'

export default defineRoute(showTagTable, async ({ event, query }) => {
  const [rows, links] = [await (await matchingTags(query)).selectAll().orderBy('path').execute(), await linksNow()]
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="tags.csv"' })
  return tagTable(rows, links, query)
})

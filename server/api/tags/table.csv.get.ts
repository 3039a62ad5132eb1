import { setResponseHeaders } from 'h3'
import { tableText, type Cell } from '#core/formats/csv/write'
import { thingsOf } from '#db/rows'
import { tagTable } from '#shared/api/tags'
import { tagColumns } from '#shared/tagCsv/columns'
import { Turns } from '#pacing/turns'
import { defineRoute } from '../../answers/route'
import { linksNow } from '../../imports/linksNow'
import { matchingTags } from '../../tags/matching'

/** So many lines are made in one go. */
const inOneGo = 200
/** By this mark spreadsheets know UTF-8. */
const mark = '\ufeff'

export default defineRoute(tagTable, async ({ event, query }) => {
  const { columns: chosen, delimiter, decimal } = query
  const [rows, links] = [await matchingTags(query).selectAll().orderBy('path').execute(), await linksNow()]
  const columns = tagColumns.filter(({ name }) => !chosen || chosen.includes(name))
  if (chosen) columns.sort((a, b) => chosen.indexOf(a.name) - chosen.indexOf(b.name))
  const records: Cell[][] = []
  const turns = new Turns()
  for (let at = 0; at < rows.length; at += inOneGo) {
    if (turns.isOver) await turns.next()
    for (const tag of thingsOf('tag', rows.slice(at, at + inOneGo))) records.push(columns.map((column) => column.show(tag, links)))
  }
  const isShown = columns.map((_, i) => !!chosen || records.length === 0 || records.some((cells) => cells[i] !== null))
  const shown = <T>(cells: readonly T[]) => cells.filter((_, i) => isShown[i])
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="tags.csv"' })
  const parts = [mark + tableText([shown(columns).map(({ name }) => name)], { delimiter, decimal })]
  for (let at = 0; at < records.length; at += inOneGo) {
    if (turns.isOver) await turns.next()
    parts.push(tableText(records.slice(at, at + inOneGo).map(shown), { delimiter, decimal }))
  }
  return parts.join('')
})

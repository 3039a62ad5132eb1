import { tableText, type Cell } from '#core/formats/csv/write'
import type { Delimiter } from '#core/formats/csv/dialect'
import type { DecimalSign } from '#core/formats/csv/numbers'
import { Turns } from '#pacing/turns'
import { thingsOf } from '#db/rows'
import type { LinkNames } from '#shared/sources/columns'
import { tagColumns } from '#shared/tagCsv/columns'

/** So many lines are made in one go. */
const inOneGo = 200
/** By this mark spreadsheets know UTF-8. */
const mark = '\ufeff'

/**
 * Rows of tags as a table (CSV), made in turns with everything else.
 *
 * @param chosen the columns in their order; absent: all that hold anything
 */
export const tagTable = async (
  rows: readonly unknown[],
  links: LinkNames,
  { columns: chosen, delimiter, decimal }: { columns?: readonly string[] | undefined; delimiter: Delimiter; decimal: DecimalSign },
): Promise<string> => {
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
  const parts = [mark + tableText([shown(columns).map(({ name }) => name)], { delimiter, decimal })]
  for (let at = 0; at < records.length; at += inOneGo) {
    if (turns.isOver) await turns.next()
    parts.push(tableText(records.slice(at, at + inOneGo).map(shown), { delimiter, decimal }))
  }
  return parts.join('')
}

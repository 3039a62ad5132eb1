import { numberText, type DecimalSign } from '#core/formats/csv/numbers'
import type { Cell } from '#core/formats/csv/write'
import type { LinkNames } from '../sources/columns'
import type { TagDraft } from '../tags'
import { tagColumns } from './columns'

/** A cell as it is compared and shown; empty: nothing. */
export const cellText = (cell: Cell, decimal: DecimalSign = '.'): string =>
  cell === null ? '' : typeof cell === 'number' ? numberText(cell, decimal) : String(cell)

/** What a tag has in the columns that are not empty. */
export const cellsOf = (tag: TagDraft, links: LinkNames): Record<string, string> => {
  const cells: Record<string, string> = {}
  for (const column of tagColumns) {
    const cell = cellText(column.show(tag, links))
    if (cell !== '') cells[column.name] = cell
  }
  return cells
}

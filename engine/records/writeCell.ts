import { fault } from '#core/faults/catalogue'
import type { Carried } from '#core/messages/carried'
import type { SetColumn } from '#core/records/columns'
import type { CursorSettings, SnapshotSettings } from '#core/records/settings'
import type { RowStore } from '../links/receiving'
import { thrown } from './work'

interface Cell {
  column: SetColumn
  label: string
  key: Carried
  before: Carried
}

/** Writes one value back into its row, where that still holds what was read. */
export const writeCell = async (store: RowStore, { from, key }: SnapshotSettings | CursorSettings, cell: Cell, value: Carried) => {
  if (from.kind !== 'table') throw thrown(fault('records.not-written', { what: cell.column.name }))
  const changed = await store.replace({
    place: { schema: from.schema, table: from.table },
    key: { column: key, value: cell.key },
    cell: { column: cell.column.name, type: cell.column.type, before: cell.before, value },
  })
  if (changed === 0) throw thrown(fault('records.moved-on', { row: cell.label, column: cell.column.name }))
}

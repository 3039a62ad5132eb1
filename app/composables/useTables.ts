import { listTables, showTable } from '#shared/api/links'
import { listWhole } from '#shared/api/lists'
import type { ListedTable, TableColumn } from '#shared/links/tables'

/** Tables, views and procedures that a link to a database has, and the columns of one of them; both are only suggestions. */
export const useTables = (linkId: () => number, place: () => { schema: string; table: string } | null = () => null) => {
  const tables = shallowRef<ListedTable[]>([])
  const columns = shallowRef<TableColumn[]>([])
  watch(
    linkId,
    async (id) => {
      const found = id > 0 ? await callApi(listTables, { params: { id }, query: { limit: listWhole } }).catch(() => null) : null
      tables.value = found?.items ?? []
    },
    { immediate: true },
  )
  watch(
    () => JSON.stringify([linkId(), place()]),
    async () => {
      const [id, at] = [linkId(), place()]
      columns.value = []
      if (id < 1 || !at || at.table === '') return
      const found = await callApi(showTable, { params: { id }, body: { ...at, procedure: false } }).catch(() => null)
      if (place()?.table === at.table) columns.value = found?.columns ?? []
    },
    { immediate: true },
  )
  return { tables, columns }
}

/** `billing.energy` as it is typed, and as it is kept. */
export const placeText = ({ schema, table }: { schema: string; table: string }) => [schema, table].filter(Boolean).join('.')
export const placeOfText = (text: string): { schema: string; table: string } => {
  const at = text.indexOf('.')
  return at > 0 ? { schema: text.slice(0, at), table: text.slice(at + 1) } : { schema: '', table: text }
}

import { HistoryReader } from '#db/history/reader'
import { databaseUrl } from './database'

let opened: HistoryReader | null = null

/** Reads what was recorded; opened on first use. */
export const historyReader = (): HistoryReader => (opened ??= new HistoryReader(databaseUrl()))

export const closeHistory = async () => {
  await opened?.close()
  opened = null
}

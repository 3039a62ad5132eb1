import { sql } from 'kysely'
import type { JournalUse } from '#shared/journal'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

interface Measured {
  mb: number
  entries: number
  writes: number
  deeds: number
  isIndexed: boolean
}

/** What the journal takes now. Numbers of rows are as the server last estimated them, counted where there are few. */
export const journalUse = async (): Promise<JournalUse> => {
  const memory = engineClient.alive ? await engineClient.call((engine) => engine.journalMemory()) : null
  const forwarding = engineClient.alive ? await engineClient.call((engine) => engine.forwarding()) : null
  const { mb, ...measured } = await measuredTables()
  const oldest = memory ? memory.oldest : await oldestRow()
  return {
    ...measured,
    ...(memory ? { entries: memory.entries, mb: null } : { mb }),
    since: oldest === null ? null : new Date(oldest).toISOString(),
    forwarding,
  }
}

const oldestRow = async () => {
  const row = await database().selectFrom('journal').select('at').orderBy('id', 'asc').limit(1).executeTakeFirst()
  return row?.at.getTime() ?? null
}

/** More are not counted one by one. */
const mostCountedOut = 100_000
const counted = (table: 'journal' | 'written' | 'deed') => sql<number>`(
  select case when seen < ${mostCountedOut} then seen else greatest(seen, n_live_tup) end
  from pg_stat_user_tables, (select count(*) as seen from (select 1 from ${sql.table(table)} limit ${mostCountedOut}) as few) as counted
  where relid = ${table}::regclass)::float8`

const measuredTables = async (): Promise<Measured> => {
  const { rows } = await sql<Measured>`select
    pg_total_relation_size('journal')::float8 / 1e6 as mb,
    ${counted('journal')} as entries, ${counted('written')} as writes, ${counted('deed')} as deeds,
    to_regclass('journal_words') is not null as "isIndexed"`.execute(database())
  return rows[0]!
}

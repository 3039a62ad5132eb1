import { Kysely, PostgresDialect } from 'kysely'
import pg from 'pg'
import type { Database } from './tables'

// bigint identity columns (journal) stay far below 2^53
pg.types.setTypeParser(pg.types.builtins.INT8, Number)

/** So long a connection may take to come about, ms. */
const usualConnectMs = 3000

/** Opens a pool. Idle connections that die are replaced on next use; the error is only reported. */
export const connect = (url: string, onIdleError: (error: Error) => void = () => {}, connectMs = usualConnectMs): Kysely<Database> => {
  const pool = new pg.Pool({
    connectionString: url,
    max: 8,
    connectionTimeoutMillis: connectMs,
    query_timeout: 20_000,
    keepAlive: true,
  })
  pool.on('error', onIdleError)
  // one that breaks while somebody holds it, between two statements, would end the process for want of a listener
  pool.on('connect', (client) => client.on('error', () => {}))
  return new Kysely<Database>({ dialect: new PostgresDialect({ pool }) })
}

import type { Kysely } from 'kysely'
import { connect } from '#db/connect'
import type { Database } from '#db/tables'

export const databaseUrl = () => {
  const url = process.env.CONDUIT_DATABASE
  if (!url) throw new Error('CONDUIT_DATABASE is not set; ./conduit start sets it.')
  return url
}

let opened: Kysely<Database> | null = null

/** The web side's pool, opened on first use. */
export const database = (): Kysely<Database> => (opened ??= connect(databaseUrl()))

export const closeDatabase = async () => {
  await opened?.destroy()
  opened = null
}

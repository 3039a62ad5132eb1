import { sql, type Kysely, type Migration } from 'kysely'

/** Each record of a write has a key of its own, so that one that is handed in twice is kept once. */
export const writeKeys: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema.alterTable('written').addColumn('key', 'uuid').execute()
    await sql`create unique index written_key on written (key)`.execute(db)
  },
}

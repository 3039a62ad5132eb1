import { sql, type Kysely, type Migration } from 'kysely'

/** What the values of a tag are called. */
export const valueNames: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table tag add column names jsonb not null default '[]'`.execute(db)
  },
}

import { sql, type Kysely, type Migration } from 'kysely'

/** What becomes of odd values, which changes are passed on, the unit before it is converted, and notes that are accepted. */
export const shaping: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table link add column odd jsonb`.execute(db)
    await sql`
      alter table tag add column odd jsonb, add column reports jsonb, add column raw_unit text not null default '',
      add column accepted jsonb not null default '[]'`.execute(db)
  },
}

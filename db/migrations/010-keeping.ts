import { sql, type Kysely, type Migration } from 'kysely'

/** How long revisions are kept, and up to which they are forgotten: who follows changes from before that reads everything. */
export const keeping: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      alter table site
        add column keep_days integer,
        add column keep_revisions integer,
        add column forgotten integer not null default 0`.execute(db)
  },
}

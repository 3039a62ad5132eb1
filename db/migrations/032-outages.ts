import { sql, type Kysely, type Migration } from 'kysely'

/** Links of whose record something is missing that is still to be filled in: whoever leads next has to know since when. */
export const outages: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      create table history_outage (
        link integer primary key references link (id) on delete cascade deferrable initially immediate,
        since timestamptz not null
      )`.execute(db)
  },
}

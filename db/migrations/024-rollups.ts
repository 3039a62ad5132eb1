import { sql, type Kysely, type Migration } from 'kysely'

/** Which stretches of rollups are to be made again, by the ids of their tags; kept so that whoever begins after a kill goes on with them. */
export const rollups: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`create table history_again (
      series integer primary key,
      since timestamptz not null,
      upto timestamptz not null,
      noticed boolean not null
    )`.execute(db)
  },
}

import { sql, type Kysely, type Migration } from 'kysely'

/** What the file of a controller’s program said when it was taken last, so that a newer one is compared with it. */
export const programBases: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      create table program_base (
        link_id integer not null references link (id) on delete cascade deferrable initially immediate,
        folder text not null,
        name text not null,
        lines jsonb not null,
        taken_at timestamptz not null default now(),
        primary key (link_id, folder)
      )`.execute(db)
  },
}

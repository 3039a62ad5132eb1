import { sql, type Kysely, type Migration } from 'kysely'

/** Tags got sources of other kinds than points of links. */
export const sources: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table tag add column source text not null default 'point'`.execute(db)
    await sql`alter table tag alter column source drop default`.execute(db)
    await sql`alter table tag alter column link_id drop not null`.execute(db)
    // what is taken back may pass through a state in which a tag's link is gone already
    await sql`alter table tag alter constraint tag_link_id_fkey deferrable initially immediate`.execute(db)
    await sql`alter table tag add constraint tag_point_has_link check (source <> 'point' or link_id is not null)`.execute(db)
  },
}

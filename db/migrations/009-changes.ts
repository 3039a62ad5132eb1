import { sql, type Kysely, type Migration } from 'kysely'

/**
 * What a revision changed stands in rows of its own: a revision of 100,000 tags is never one value. Only what was before is
 * kept; how a thing was afterwards is what its next change found, or what it is now. Tags may swap their paths.
 */
export const changes: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      create table change (
        revision integer not null,
        subject text not null,
        thing integer not null,
        what text not null,
        before jsonb,
        primary key (subject, thing, revision))`.execute(db)
    await sql`
      insert into change (revision, subject, thing, what, before)
      select distinct on (number, one ->> 'subject', (one ->> 'id')::integer) number, one ->> 'subject', (one ->> 'id')::integer,
        case when one -> 'before' = 'null' then 'made' when one -> 'after' = 'null' then 'removed' else 'changed' end,
        nullif(one -> 'before', 'null')
      from revision, jsonb_array_elements(changes) with ordinality as listed (one, place)
      order by number, one ->> 'subject', (one ->> 'id')::integer, place`.execute(db)
    // revisions are only ever added at the end, so that little says where each of them lies
    await sql`create index change_revision on change using brin (revision) with (pages_per_range = 16, autosummarize = on)`.execute(db)
    await sql`alter table revision drop column changes`.execute(db)
    await sql`alter table revision add column comment text not null default ''`.execute(db)
    await sql`alter table tag drop constraint tag_path_key`.execute(db)
    await sql`alter table tag add constraint tag_path_key unique (path) deferrable initially immediate`.execute(db)
  },
}

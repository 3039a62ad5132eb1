import { sql, type Kysely, type Migration } from 'kysely'

/** What each person has at hand: points that were tried, and lists of tags to watch. */
export const bench: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      create table bench (
        id integer generated always as identity primary key,
        person_id integer not null references person (id) on delete cascade,
        point jsonb not null,
        last jsonb,
        made_at timestamptz not null default now()
      )`.execute(db)
    await sql`create index bench_of_person on bench (person_id, id)`.execute(db)
    await sql`
      create table watch_list (
        id integer generated always as identity primary key,
        person_id integer not null references person (id) on delete cascade,
        name text not null,
        shared boolean not null default false,
        tags integer[] not null default '{}',
        made_at timestamptz not null default now()
      )`.execute(db)
    await sql`create unique index watch_list_name on watch_list (person_id, lower(name))`.execute(db)
  },
}

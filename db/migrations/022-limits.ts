import { sql, type Kysely, type Migration } from 'kysely'

/** Limits of tags, and what became of alarms. */
export const limits: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table tag add column limits jsonb not null default '[]'`.execute(db)
    await sql`create table alarm_event (
      id bigserial primary key,
      at timestamptz not null,
      tag_id integer not null,
      path text not null,
      "limit" text not null,
      severity text not null,
      turn text not null,
      text text not null,
      value text not null,
      who text not null,
      comment text not null
    )`.execute(db)
    await sql`create index alarm_event_tag on alarm_event (tag_id, id)`.execute(db)
  },
}

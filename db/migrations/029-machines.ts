import { sql, type Kysely, type Migration } from 'kysely'

/** Machines that stand by for the whole site, which of them leads it, and what the next one has to know to go on. */
export const machines: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table node add column "standsBy" boolean not null default false, add column door jsonb`.execute(db)
    // whoever holds it renews it: beat grows with each renewal, fence with each new holder; no clock decides
    await sql`
      create table site_lead (
        one boolean primary key default true check (one),
        run text,
        node integer,
        name text not null default '',
        fence bigint not null default 0,
        beat bigint not null default 0,
        since timestamptz not null default now(),
        renewed timestamptz not null default now(),
        wish integer
      )`.execute(db)
    await sql`insert into site_lead default values`.execute(db)
    // small things that the leading machine keeps on its disk and the next one needs
    await sql`
      create table site_kept (
        room text not null,
        key text not null,
        value text not null,
        primary key (room, key)
      )`.execute(db)
  },
}

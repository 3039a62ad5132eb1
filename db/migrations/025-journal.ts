import { sql, type Kysely, type Migration } from 'kysely'

/** Events that happen again are counted; how they are kept is said; and what people did has a table of its own. */
export const journal: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table site add column journal jsonb not null default '{}'`.execute(db)
    await sql`alter table journal add column times integer not null default 1, add column last_at timestamptz`.execute(db)
    await sql`update journal set last_at = at`.execute(db)
    await sql`alter table journal alter column last_at set not null`.execute(db)
    await sql`create index journal_severity on journal (severity, id)`.execute(db)
    await sql`create index journal_source on journal (source, id)`.execute(db)
    await wordsIndex(db)

    await db.schema
      .createTable('deed')
      .addColumn('id', 'bigint', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('at', 'timestamptz', (c) => c.notNull())
      .addColumn('who', 'text', (c) => c.notNull())
      .addColumn('place', 'text', (c) => c.notNull())
      .addColumn('kind', 'text', (c) => c.notNull())
      .addColumn('what', 'text', (c) => c.notNull())
      .addColumn('ok', 'boolean', (c) => c.notNull())
      .execute()
    await sql`create index deed_at on deed (at)`.execute(db)
  },
}

/** Finds words within millions of entries. Where the server does not have it, they are found more slowly. */
const wordsIndex = (db: Kysely<unknown>) =>
  sql`do $$ begin
    create extension if not exists pg_trgm;
    create index journal_words on journal using gin (text gin_trgm_ops, source gin_trgm_ops);
  exception when undefined_file or feature_not_supported or insufficient_privilege or undefined_object then
    raise notice 'words of the journal are looked for without an index: %', sqlerrm;
  end $$`.execute(db)

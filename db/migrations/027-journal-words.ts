import { sql, type Kysely, type Migration } from 'kysely'

/**
 * What words of the journal are looked for in lies beside each entry, in small letters: to compare letters without their
 * case takes four times as long, and it is done for each entry where most of them hold the word. And troubles of one source are
 * found without looking at all its other entries.
 */
export const journalWords: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`drop index if exists journal_words`.execute(db)
    await sql`alter table journal add column words text generated always as (lower(text || E'\n' || source)) stored`.execute(db)
    await sql`create index journal_severity_source on journal (severity, source, id)`.execute(db)
    await wordsIndex(db)
  },
}

/** Where the server does not have what it takes, words are found more slowly. */
const wordsIndex = (db: Kysely<unknown>) =>
  sql`do $$ begin
    create index journal_words on journal using gin (words gin_trgm_ops);
  exception when undefined_file or feature_not_supported or insufficient_privilege or undefined_object then
    raise notice 'words of the journal are looked for without an index: %', sqlerrm;
  end $$`.execute(db)

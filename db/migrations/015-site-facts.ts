import { sql, type Kysely, type Migration } from 'kysely'

/** Look-up tables of bridges, and the folders of the engine's machine that an administrator allowed. */
export const siteFacts: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table bridge add column "lookUps" jsonb not null default '[]'`.execute(db)
    await sql`alter table site add column "fileRoots" jsonb not null default '[]'`.execute(db)
  },
}

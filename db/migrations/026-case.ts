import { sql, type Kysely, type Migration } from 'kysely'

/** A site may look at the case of another one: then it holds what a handover pack says, and is connected to nothing. */
export const caseOf: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`alter table site add column case_of jsonb`.execute(db)
    await db.schema
      .createTable('case_part')
      .addColumn('name', 'text', (c) => c.primaryKey())
      .addColumn('content', 'text', (c) => c.notNull())
      .execute()
  },
}

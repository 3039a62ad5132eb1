import { sql, type Kysely, type Migration } from 'kysely'

/** Certificates of others, and what was decided about them. */
export const certificates: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('certificate')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('fingerprint', 'text', (c) => c.notNull().unique())
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('verdict', 'text', (c) => c.notNull().check(sql`verdict in ('trusted', 'refused')`))
      .addColumn('der', 'text', (c) => c.notNull())
      .addColumn('despite', 'jsonb', (c) => c.notNull())
      .addColumn('revision', 'integer', (c) => c.notNull())
      .execute()
  },
}

import type { Kysely, Migration } from 'kysely'

/** Every value that was written to the plant: by whom, from where, what, and what came of it. */
export const writes: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('written')
      .addColumn('id', 'bigint', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('at', 'timestamptz', (c) => c.notNull())
      .addColumn('who', 'text', (c) => c.notNull())
      .addColumn('via', 'text', (c) => c.notNull())
      .addColumn('place', 'text', (c) => c.notNull())
      .addColumn('tag_id', 'integer')
      .addColumn('path', 'text', (c) => c.notNull())
      .addColumn('before', 'text')
      .addColumn('value', 'text', (c) => c.notNull())
      .addColumn('ok', 'boolean', (c) => c.notNull())
      .addColumn('ms', 'integer', (c) => c.notNull())
      .addColumn('fault', 'jsonb')
      .execute()
    await db.schema.createIndex('written_tag').on('written').columns(['tag_id', 'id']).execute()
  },
}

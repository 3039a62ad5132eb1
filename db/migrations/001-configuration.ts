import { sql, type Kysely, type Migration } from 'kysely'

/** Configuration, its revisions, and the journal. */
export const configuration: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('site')
      .addColumn('id', 'integer', (c) => c.primaryKey().check(sql`id = 1`))
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('revision', 'integer', (c) => c.notNull())
      .execute()
    await sql`insert into site (id, name, revision) values (1, 'New site', 0)`.execute(db)

    await db.schema
      .createTable('link')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('kind', 'text', (c) => c.notNull())
      .addColumn('on', 'boolean', (c) => c.notNull())
      .addColumn('settings', 'jsonb', (c) => c.notNull())
      .addColumn('revision', 'integer', (c) => c.notNull())
      .execute()
    await sql`create unique index link_name on link (lower(name))`.execute(db)

    await db.schema
      .createTable('tag')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('path', 'text', (c) => c.notNull().unique())
      .addColumn('link_id', 'integer', (c) => c.notNull().references('link.id'))
      .addColumn('address', 'text', (c) => c.notNull())
      .addColumn('type', 'text', (c) => c.notNull())
      .addColumn('options', 'jsonb', (c) => c.notNull())
      .addColumn('access', 'text', (c) => c.notNull())
      .addColumn('interval', 'integer')
      .addColumn('scaling', 'jsonb')
      .addColumn('unit', 'text', (c) => c.notNull())
      .addColumn('description', 'text', (c) => c.notNull())
      .addColumn('revision', 'integer', (c) => c.notNull())
      .execute()
    await db.schema.createIndex('tag_link').on('tag').column('link_id').execute()
    await sql`create index tag_path_prefix on tag (path text_pattern_ops)`.execute(db)

    await db.schema
      .createTable('outlet')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('kind', 'text', (c) => c.notNull())
      .addColumn('on', 'boolean', (c) => c.notNull())
      .addColumn('settings', 'jsonb', (c) => c.notNull())
      .addColumn('revision', 'integer', (c) => c.notNull())
      .execute()
    await sql`create unique index outlet_name on outlet (lower(name))`.execute(db)

    await db.schema
      .createTable('revision')
      .addColumn('number', 'integer', (c) => c.primaryKey())
      .addColumn('at', 'timestamptz', (c) => c.notNull().defaultTo(sql`now()`))
      .addColumn('who', 'text', (c) => c.notNull())
      .addColumn('what', 'text', (c) => c.notNull())
      .addColumn('changes', 'jsonb', (c) => c.notNull())
      .execute()

    await db.schema
      .createTable('journal')
      .addColumn('id', 'bigint', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('at', 'timestamptz', (c) => c.notNull())
      .addColumn('severity', 'text', (c) => c.notNull())
      .addColumn('source', 'text', (c) => c.notNull())
      .addColumn('text', 'text', (c) => c.notNull())
      .addColumn('fault', 'jsonb')
      .execute()
    await db.schema.createIndex('journal_at').on('journal').column('at').execute()
  },

  async down(db: Kysely<unknown>) {
    for (const table of ['journal', 'revision', 'outlet', 'tag', 'link', 'site']) await db.schema.dropTable(table).execute()
  },
}

import { sql, type Kysely, type Migration } from 'kysely'

const roles = sql`role in ('look', 'operate', 'configure', 'administer')`

/** People, their sessions, and tokens of programs. */
export const people: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('person')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('role', 'text', (c) => c.notNull().check(roles))
      .addColumn('password', 'text', (c) => c.notNull())
      .addColumn('must_change', 'boolean', (c) => c.notNull())
      .addColumn('on', 'boolean', (c) => c.notNull())
      .addColumn('made_at', 'timestamptz', (c) => c.notNull().defaultTo(sql`now()`))
      .addColumn('seen_at', 'timestamptz')
      .execute()
    await sql`create unique index person_name on person (lower(name))`.execute(db)

    await db.schema
      .createTable('session')
      .addColumn('hash', 'text', (c) => c.primaryKey())
      .addColumn('person_id', 'integer', (c) => c.notNull().references('person.id').onDelete('cascade'))
      .addColumn('made_at', 'timestamptz', (c) => c.notNull().defaultTo(sql`now()`))
      .addColumn('seen_at', 'timestamptz', (c) => c.notNull().defaultTo(sql`now()`))
      .addColumn('from', 'text', (c) => c.notNull())
      .execute()

    await db.schema
      .createTable('api_token')
      .addColumn('id', 'integer', (c) => c.primaryKey().generatedByDefaultAsIdentity())
      .addColumn('name', 'text', (c) => c.notNull())
      .addColumn('hash', 'text', (c) => c.notNull().unique())
      .addColumn('role', 'text', (c) => c.notNull().check(roles))
      .addColumn('made_by', 'text', (c) => c.notNull())
      .addColumn('made_at', 'timestamptz', (c) => c.notNull().defaultTo(sql`now()`))
      .addColumn('expires_at', 'timestamptz', (c) => c.notNull())
      .addColumn('used_at', 'timestamptz')
      .execute()
  },
}

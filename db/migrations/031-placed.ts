import { sql, type Kysely, type Migration } from 'kysely'

/** Outlets and bridges run on nodes as links do. */
export const placed: Migration = {
  async up(db: Kysely<unknown>) {
    for (const table of ['outlet', 'bridge'])
      await sql`alter table ${sql.table(table)} add column "nodeId" integer references node (id) deferrable initially immediate`.execute(db)
  },
}

import { sql, type Kysely, type Migration } from 'kysely'

/** Text with numbers in it in the order of the numbers: `holding/9` before `holding/10` (Unicode TR 35, numeric ordering). */
export const naturalOrder: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`create collation natural_order (provider = icu, locale = 'und-u-kn-true')`.execute(db)
  },
}

import { sql, type Kysely } from 'kysely'
import type { Database } from '#db/tables'
import type { CheckCompany } from '#shared/checks'
import { database } from '../store/database'
import { sheetRow } from './sheets'

/** Who says nothing for so long is nowhere. */
const awayAfter = sql`interval '15 seconds'`

/** Says where somebody is, and answers where the others are, and what tells whether the sheet is another one. */
export const inCompany = async (id: number, who: string, tag: number | null, db: Kysely<Database> = database()): Promise<CheckCompany> => {
  const { closed_at } = await sheetRow(id, db)
  await (tag === null ? leave(id, who, db) : come(id, who, tag, db))
  const { rows } = await sql<Omit<CheckCompany, 'isClosed'>>`
    select (select revision from site) as revision,
           (select coalesce(max(id), 0) from check_result where sheet_id = ${id}) as last,
           (select count(*)::int from check_point where sheet_id = ${id}) as points,
           (select coalesce(jsonb_agg(jsonb_build_object('who', who, 'tag', tag_id) order by who), '[]') from check_company
             where sheet_id = ${id} and who <> ${who} and at > now() - ${awayAfter}) as people`.execute(db)
  return { ...rows[0]!, isClosed: closed_at !== null }
}

const come = (id: number, who: string, tag: number, db: Kysely<Database>) =>
  sql`
    insert into check_company (sheet_id, who, tag_id) select ${id}, ${who}, ${tag}
     where exists (select from check_point where sheet_id = ${id} and tag_id = ${tag})
    on conflict (sheet_id, who) do update set tag_id = excluded.tag_id, at = now()`.execute(db)

/** Whoever left a while ago is forgotten as well. */
const leave = (id: number, who: string, db: Kysely<Database>) =>
  sql`delete from check_company where sheet_id = ${id} and (who = ${who} or at < now() - ${awayAfter})`.execute(db)

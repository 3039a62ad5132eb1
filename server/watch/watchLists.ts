import { sql, type Kysely, type Selectable } from 'kysely'
import { fault } from '#core/faults/catalogue'
import type { Database, WatchListTable } from '#db/tables'
import type { WatchList } from '#shared/watch'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

/** Lists of tags that people watch: their own, and those that others share. */

type Row = Selectable<WatchListTable> & { owner: string }

export const shownList = ({ id, person_id, owner, name, shared, tags, made_at }: Row, me: number): WatchList => ({
  ...{ id, name, shared, tags, owner, mine: person_id === me },
  madeAt: made_at.toISOString(),
})

/** Those that a person may look at. */
export const listsFor = (me: number, db: Kysely<Database> = database()) =>
  db
    .selectFrom('watch_list')
    .innerJoin('person', 'person.id', 'watch_list.person_id')
    .selectAll('watch_list')
    .select('person.name as owner')
    .where((eb) => eb.or([eb('watch_list.person_id', '=', me), eb('watch_list.shared', '=', true)]))

export const listFor = async (me: number, id: number, db?: Kysely<Database>): Promise<WatchList> => {
  const row = await listsFor(me, db).where('watch_list.id', '=', id).executeTakeFirst()
  if (!row) throw new Refusal(fault('watch.not-there', { id }))
  return shownList(row, me)
}

/** One that a person may change, locked until that is done. */
export const ownList = async (me: number, id: number, db: Kysely<Database>): Promise<WatchList> => {
  const list = await listFor(me, id, db)
  if (!list.mine) throw new Refusal(fault('watch.not-there', { id }))
  return list
}

/** Of these tags those that are there, each once, in this order. */
export const presentTags = async (ids: readonly number[], db: Kysely<Database>): Promise<number[]> => {
  if (ids.length === 0) return []
  const rows = await db
    .selectFrom('tag')
    .select('id')
    .where(sql<boolean>`id = any(${[...ids]})`)
    .execute()
  const there = new Set(rows.map(({ id }) => id))
  return [...new Set(ids)].filter((id) => there.has(id))
}

import type { Kysely, Selectable } from 'kysely'
import { fault } from '#core/faults/catalogue'
import type { Database, TrendSetTable } from '#db/tables'
import { trendContent, type TrendSet } from '#shared/trendSet'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

type Row = Selectable<TrendSetTable> & { owner: string }

export const shownSet = ({ id, person_id, owner, name, shared, content, made_at }: Row, me: number): TrendSet => ({
  ...{ id, name, shared, owner, mine: person_id === me },
  content: trendContent.catch(trendContent.parse({})).parse(content),
  madeAt: made_at.toISOString(),
})

/** Those that a person may look at. */
export const setsFor = (me: number, db: Kysely<Database> = database()) =>
  db
    .selectFrom('trend_set')
    .innerJoin('person', 'person.id', 'trend_set.person_id')
    .selectAll('trend_set')
    .select('person.name as owner')
    .where((eb) => eb.or([eb('trend_set.person_id', '=', me), eb('trend_set.shared', '=', true)]))

export const setFor = async (me: number, id: number, db?: Kysely<Database>): Promise<TrendSet> => {
  const row = await setsFor(me, db).where('trend_set.id', '=', id).executeTakeFirst()
  if (!row) throw new Refusal(fault('trends.not-there', { id }))
  return shownSet(row, me)
}

/** One that a person may change. */
export const ownSet = async (me: number, id: number, db: Kysely<Database>): Promise<TrendSet> => {
  const set = await setFor(me, id, db)
  if (!set.mine) throw new Refusal(fault('trends.not-there', { id }))
  return set
}

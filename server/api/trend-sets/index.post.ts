import { fault } from '#core/faults/catalogue'
import { makeTrendSet } from '#shared/api/trendSets'
import { mostTrendSets } from '#shared/trendSet'
import { requirePerson } from '../../access/ownThings'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { namesTaken } from '../../store/configuration'
import { inTurn } from '../../store/ownRows'
import { setFor } from '../../trends/trendSets'

export default defineRoute(makeTrendSet, ({ event, body: { name, shared, content } }) => {
  const me = requirePerson(event)
  const made = inTurn(me, async (db) => {
    const mine = await db.selectFrom('trend_set').select('id').where('person_id', '=', me).execute()
    if (mine.length >= mostTrendSets)
      throw new Refusal(fault('watch.full', { most: mostTrendSets, what: 'sets of trends for each person' }))
    const { id } = await db
      .insertInto('trend_set')
      .values({ person_id: me, name, shared, content: JSON.stringify(content) })
      .returning('id')
      .executeTakeFirstOrThrow()
    return setFor(me, id, db)
  })
  return namesTaken('set of trends', name, 'name', made)
})

import { fault } from '#core/faults/catalogue'
import { addToBench } from '#shared/api/bench'
import { mostOnBench } from '#shared/bench'
import { requirePerson } from '../../access/ownThings'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { checkedPoints, shownEntry } from '../../bench/bench'
import { inTurn } from '../../store/ownRows'

export default defineRoute(addToBench, async ({ event, body }) => {
  const person = requirePerson(event)
  const points = await checkedPoints(body.points, (at) => `points.${at}.`)
  return inTurn(person, async (db) => {
    const { there } = await db
      .selectFrom('bench')
      .select((eb) => eb.fn.countAll<number>().as('there'))
      .where('person_id', '=', person)
      .executeTakeFirstOrThrow()
    if (there + points.length > mostOnBench) throw new Refusal(fault('bench.full', { most: mostOnBench }))
    const rows = await db
      .insertInto('bench')
      .values(points.map((point) => ({ person_id: person, point: JSON.stringify(point), last: null })))
      .returningAll()
      .execute()
    return rows.map(shownEntry)
  })
})

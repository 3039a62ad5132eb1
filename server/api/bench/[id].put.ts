import { fault } from '#core/faults/catalogue'
import { changeOnBench } from '#shared/api/bench'
import { requirePerson } from '../../access/ownThings'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { checkedPoints, shownEntry } from '../../bench/bench'
import { database } from '../../store/database'

export default defineRoute(changeOnBench, async ({ event, params: { id }, body }) => {
  const person = requirePerson(event)
  const [point] = await checkedPoints([body], () => '')
  const row = await database()
    .updateTable('bench')
    .set({ point: JSON.stringify(point), last: null })
    .where('id', '=', id)
    .where('person_id', '=', person)
    .returningAll()
    .executeTakeFirst()
  if (!row) throw new Refusal(fault('bench.not-there', { id }))
  return shownEntry(row)
})

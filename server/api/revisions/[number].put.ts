import { fault } from '#core/faults/catalogue'
import { noteRevision } from '#shared/api/site'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(noteRevision, async ({ params: { number }, body: { comment } }) => {
  const noted = await database()
    .updateTable('revision')
    .set({ comment })
    .where('number', '=', number)
    .returning('comment')
    .executeTakeFirst()
  if (!noted) throw new Refusal(fault('entry.gone', { thing: 'revision', id: number }))
  return noted
})

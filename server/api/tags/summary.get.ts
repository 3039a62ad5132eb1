import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** How many tags there are, and how many of them may be written. */
export default defineRoute('look', async () => {
  const counts = await database()
    .selectFrom('tag')
    .select((eb) => [eb.fn.countAll<number>().as('tags'), eb.fn.countAll<number>().filterWhere('access', '=', 'readwrite').as('writable')])
    .executeTakeFirstOrThrow()
  return counts
})

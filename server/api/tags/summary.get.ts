import { tagSummary } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(tagSummary, () =>
  database()
    .selectFrom('tag')
    .select((eb) => [eb.fn.countAll<number>().as('tags'), eb.fn.countAll<number>().filterWhere('access', '=', 'readwrite').as('writable')])
    .executeTakeFirstOrThrow(),
)

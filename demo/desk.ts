import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import { trendContent } from '#shared/trendSet'
import { benchPoint } from '#shared/bench'

const watched = [
  'berth/1/shore/active_power',
  'berth/1/shore/breaker_closed',
  'berth/1/arm/plug/position/elevation',
  'berth/2/shore/active_power',
]
const drawnTogether = ['berth/1/shore/active_power', 'berth/1/shore/breaker_closed', 'berth/2/shore/active_power', 'office/grid/frequency']
const converter = ['converter/power', 'converter/state', 'converter/ship']
const tried = [
  { address: '11:holding/40', type: 'float32' },
  { address: '12:holding/46', type: 'uint16' },
  { address: '13:holding/90', type: 'float32' },
] as const

/** What people of the port have at hand: a list that they share, and what the engineer tried last. */
export const addDemoDesk = async (db: Kysely<Database>) => {
  const people = await db.selectFrom('person').select(['id', 'name']).where('name', 'in', ['operator', 'engineer']).execute()
  const idOf = (name: string) => people.find((person) => person.name === name)?.id
  const [operator, engineer] = [idOf('operator'), idOf('engineer')]
  const tags = await db
    .selectFrom('tag')
    .select(['id', 'path'])
    .where('path', 'in', [...watched, ...drawnTogether, ...converter])
    .execute()
  const link = await db.selectFrom('link').select('id').where('kind', '=', 'modbus-tcp').orderBy('id').executeTakeFirst()
  if (operator === undefined || engineer === undefined || !link) return
  const ids = watched.flatMap((path) => tags.find((tag) => tag.path === path)?.id ?? [])
  await db.insertInto('watch_list').values({ person_id: operator, name: 'Shore power', shared: true, tags: ids }).execute()
  const setOf = (name: string, paths: readonly string[], length: number) => {
    const drawn = paths.flatMap((path) => tags.find((tag) => tag.path === path)?.id ?? [])
    const content = trendContent.parse({ series: drawn.map((id, colour) => ({ id, colour })), span: { kind: 'live', length } })
    return { person_id: operator, name, shared: true, content: JSON.stringify(content) }
  }
  await db
    .insertInto('trend_set')
    .values([setOf('Berth 1, a ship’s call', drawnTogether, 600_000), setOf('The converter, ship by ship', converter, 86_400_000)])
    .execute()
  const points = tried.map((one) => JSON.stringify(benchPoint.parse({ linkId: link.id, ...one })))
  await db
    .insertInto('bench')
    .values(points.map((point) => ({ person_id: engineer, point, last: null })))
    .execute()
}

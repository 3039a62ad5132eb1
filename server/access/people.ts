import type { Kysely, Selectable } from 'kysely'
import { fault } from '#core/faults/catalogue'
import type { ApiTokenTable, Database, PersonTable } from '#db/tables'
import type { ApiToken, Person } from '#shared/people'
import { Refusal } from '../answers/refusal'

export const shownPerson = ({ id, name, role, on, must_change, made_at, seen_at }: Selectable<PersonTable>): Person => ({
  id,
  name,
  role,
  on,
  mustChange: must_change,
  madeAt: made_at.toISOString(),
  seenAt: seen_at?.toISOString() ?? null,
})

export const shownToken = ({ id, name, role, made_by, made_at, expires_at, used_at }: Selectable<ApiTokenTable>): ApiToken => ({
  id,
  name,
  role,
  madeBy: made_by,
  madeAt: made_at.toISOString(),
  expiresAt: expires_at.toISOString(),
  usedAt: used_at?.toISOString() ?? null,
})

export const personById = async (db: Kysely<Database>, id: number) => {
  const person = await db.selectFrom('person').selectAll().where('id', '=', id).executeTakeFirst()
  if (!person) throw new Refusal(fault('entry.gone', { thing: 'person', id }))
  return person
}

/** A site that nobody administers could never be opened again. Row locks keep two from leaving at once. */
export const requireOtherAdministrator = async (db: Kysely<Database>, person: Selectable<PersonTable>) => {
  if (person.role !== 'administer' || !person.on) return
  const all = await db.selectFrom('person').select('id').where('role', '=', 'administer').where('on', '=', true).forUpdate().execute()
  if (!all.some(({ id }) => id !== person.id)) throw new Refusal(fault('access.last-administrator', { name: person.name }))
}

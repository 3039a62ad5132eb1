import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import type { Role } from '#core/access/roles'
import { hashPassword, oneTimePassword } from '#security/passwords'

export interface Account {
  name: string
  password: string
}

/** The demo's accounts, one of each role. Made up, and shown by the launcher. */
export const demoPassword = 'harrow-sound'
const demoPeople: { name: string; role: Role }[] = [
  { name: 'visitor', role: 'look' },
  { name: 'operator', role: 'operate' },
  { name: 'engineer', role: 'configure' },
  { name: 'harbourmaster', role: 'administer' },
]

export const addDemoPeople = async (db: Kysely<Database>) => {
  const password = await hashPassword(demoPassword)
  const rows = demoPeople.map((person) => ({ ...person, password, must_change: false, on: true }))
  await db
    .insertInto('person')
    .values(rows)
    .onConflict((conflict) => conflict.doNothing())
    .execute()
}

/** On the first start somebody must be able to come in: an administrator, with a password for once. */
export const addFirstAdministrator = async (db: Kysely<Database>): Promise<Account | null> => {
  const anybody = await db.selectFrom('person').select('id').limit(1).executeTakeFirst()
  if (anybody) return null
  const password = oneTimePassword()
  await db
    .insertInto('person')
    .values({ name: 'admin', role: 'administer', password: await hashPassword(password), must_change: true, on: true })
    .execute()
  return { name: 'admin', password }
}

/** For whoever sits at the machine and has lost the way in: a new password for once, and the role to administer. */
export const resetPassword = async (db: Kysely<Database>, name: string): Promise<Account | null> => {
  const password = oneTimePassword()
  const person = await db
    .updateTable('person')
    .set({ password: await hashPassword(password), must_change: true, on: true })
    .where((eb) => eb(eb.fn<string>('lower', ['name']), '=', name.toLowerCase()))
    .returning(['id', 'name'])
    .executeTakeFirst()
  if (!person) return null
  await db.deleteFrom('session').where('person_id', '=', person.id).execute()
  return { name: person.name, password }
}

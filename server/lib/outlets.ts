import type { Kysely } from 'kysely'
import { asOutlet } from '#db/rows'
import type { Database } from '#db/tables'
import type { OutletDraft } from '#shared/outlets/outlet'
import { invalid } from './refusal'

/** Two outlets on one port cannot both open; better said before than after. */
export const refusePortsTaken = async (db: Kysely<Database>, outlet: OutletDraft, id: number | null) => {
  const rows = await db.selectFrom('outlet').selectAll().execute()
  const other = rows.map(asOutlet).find((candidate) => candidate.id !== id && candidate.settings.port === outlet.settings.port)
  if (other) throw invalid([{ path: 'settings.port', message: `Port ${outlet.settings.port} belongs to the outlet “${other.name}”.` }])
}

import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import type { Engine } from '../engine'
import type { JournalWriter } from '../journal/journal'
import type { Security } from '../trust/security'

/** What pairing needs of this copy. */
export interface Surroundings {
  db: Kysely<Database>
  engine: Pick<Engine, 'link' | 'outlet' | 'wanted'>
  journal: JournalWriter
  security: Security
  /** How long the first session may take, ms; absent: 90 s. */
  settleMs?: number
}

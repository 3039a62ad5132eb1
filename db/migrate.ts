import { Migrator, sql, type Kysely, type Migration } from 'kysely'
import { configuration } from './migrations/001-configuration'
import { certificates } from './migrations/002-certificates'
import { people } from './migrations/003-people'
import { doors } from './migrations/004-doors'
import { rights } from './migrations/005-rights'
import { writes } from './migrations/006-writes'
import { writeKeys } from './migrations/007-write-keys'
import { sources } from './migrations/008-sources'
import { changes } from './migrations/009-changes'
import { keeping } from './migrations/010-keeping'
import { shaping } from './migrations/011-shaping'
import { bench } from './migrations/012-bench'
import { naturalOrder } from './migrations/013-natural-order'
import { bridges } from './migrations/014-bridges'
import { siteFacts } from './migrations/015-site-facts'
import { recordSets } from './migrations/016-record-sets'
import { programBases } from './migrations/017-program-bases'
import { deviceDescriptions } from './migrations/018-device-descriptions'
import { valueNames } from './migrations/019-value-names'
import { history } from './migrations/020-history'
import { equipment } from './migrations/021-equipment'
import { limits } from './migrations/022-limits'
import { displays } from './migrations/023-displays'
import { rollups } from './migrations/024-rollups'
import { journal } from './migrations/025-journal'
import { caseOf } from './migrations/026-case'
import { journalWords } from './migrations/027-journal-words'
import { nodes } from './migrations/028-nodes'
import { machines } from './migrations/029-machines'
import { checkSheets } from './migrations/030-check-sheets'
import { placed } from './migrations/031-placed'
import { outages } from './migrations/032-outages'
import type { Database } from './tables'

/** In the order in which they run. A released migration is never edited; a new one is added. */
const migrations: Record<string, Migration> = {
  '001-configuration': configuration,
  '002-certificates': certificates,
  '003-people': people,
  '004-doors': doors,
  '005-rights': rights,
  '006-writes': writes,
  '007-write-keys': writeKeys,
  '008-sources': sources,
  '009-changes': changes,
  '010-keeping': keeping,
  '011-shaping': shaping,
  '012-bench': bench,
  '013-natural-order': naturalOrder,
  '014-bridges': bridges,
  '015-site-facts': siteFacts,
  '016-record-sets': recordSets,
  '017-program-bases': programBases,
  '018-device-descriptions': deviceDescriptions,
  '019-value-names': valueNames,
  '020-history': history,
  '021-equipment': equipment,
  '022-limits': limits,
  '023-displays': displays,
  '024-rollups': rollups,
  '025-journal': journal,
  '026-case': caseOf,
  '027-journal-words': journalWords,
  '028-nodes': nodes,
  '029-machines': machines,
  '030-check-sheets': checkSheets,
  '031-placed': placed,
  '032-outages': outages,
}

/** Migrations that ran by a newer version. */
export const unknownMigrations = async (db: Kysely<Database>): Promise<string[]> => {
  const { rows } = await sql<{ name: string }>`select name from kysely_migration`.execute(db)
  return rows.map(({ name }) => name).filter((name) => !(name in migrations))
}

/**
 * Brings the database to the newest state; safe to repeat and to run from two processes at once.
 * @param upTo the last migration to run; absent: all.
 */
export const migrate = async (db: Kysely<Database>, upTo?: string): Promise<string[]> => {
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } })
  const { error, results } = await (upTo ? migrator.migrateTo(upTo) : migrator.migrateToLatest())
  if (error) throw error instanceof Error ? error : new Error(JSON.stringify(error))
  return (results ?? []).map((result) => result.migrationName)
}

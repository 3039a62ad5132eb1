import type { Kysely, Transaction } from 'kysely'
import { z } from 'zod'
import type { Database } from '#db/tables'
import { pathRecord } from '#shared/diagnosis'
import { leftOut, machineFacts, packCase, packRevision } from '#shared/handover'
import { allStatistics } from '#shared/statistics'
import { engineStatus } from '#shared/status'

/** What is kept of a pack beside its configuration and its journal, by the contract of each part. */
const contracts = {
  status: engineStatus,
  machine: machineFacts,
  statistics: allStatistics,
  checks: z.array(pathRecord),
  passed: packCase.shape.passed,
  calls: packCase.shape.calls,
  values: packCase.shape.values,
  alarms: packCase.shape.alarms,
  revisions: z.array(packRevision),
  left: z.array(leftOut).describe('What of the configuration could not be taken.'),
}
type Contracts = typeof contracts
export type CaseParts = { [P in keyof Contracts]: z.output<Contracts[P]> }
const names = Object.keys(contracts) as (keyof Contracts)[]

export const writeCaseParts = async (db: Transaction<Database>, parts: CaseParts) => {
  await db.deleteFrom('case_part').execute()
  const rows = names.map((name) => ({ name, content: JSON.stringify(parts[name]) }))
  await db.insertInto('case_part').values(rows).execute()
}

/** @returns those of the parts that are asked for; null: there is no case, or one of another version */
export const readCaseParts = async <P extends keyof Contracts>(
  db: Kysely<Database>,
  wanted: readonly P[],
): Promise<Pick<CaseParts, P> | null> => {
  const rows = await db.selectFrom('case_part').selectAll().where('name', 'in', wanted).execute()
  const contract = z.object(Object.fromEntries(wanted.map((name) => [name, contracts[name]])))
  const read = contract.safeParse(Object.fromEntries(rows.map(({ name, content }) => [name, JSON.parse(content) as unknown])))
  return read.success ? (read.data as unknown as Pick<CaseParts, P>) : null
}

import type { H3Event } from 'h3'
import { mayDo } from '#core/access/roles'
import type { PathKind, PathRecord, Verdict } from '#shared/diagnosis'
import { requireWho } from '../access/access'
import { valueOf } from '../answers/refusal'
import { engineClient } from '../runtime/engineClient'

/** The last checks of a path. Bytes that passed may hold what only those who configure are to see. */
export const recordsFor = async (event: H3Event, of: PathKind, id: number): Promise<PathRecord[]> => {
  const records = valueOf(await engineClient.call((engine) => engine.pathRecords(of, id)))
  if (mayDo(requireWho(event).role, 'configure')) return records
  return records.map((record) => ({ ...record, verdict: record.verdict && withoutBytes(record.verdict) }))
}

export const withoutBytes = (verdict: Verdict): Verdict => ({ ...verdict, exchange: null })

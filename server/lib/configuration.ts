import type { H3Event } from 'h3'
import { getRouterParam } from 'h3'
import { fault } from '#core/faults/catalogue'
import type { Row } from '#db/configuration'
import type { Subject } from '#db/tables'
import { database } from './database'
import { requireWho } from './access'
import { Refusal } from './refusal'

/** Who makes the change, as the revisions name them. */
export const whoIs = (event: H3Event): string => requireWho(event).name

export const idOf = (event: H3Event): number => {
  const id = Number(getRouterParam(event, 'id'))
  if (!Number.isInteger(id)) throw new Refusal(fault('entry.unreadable', { problem: 'the id in the address is no whole number' }))
  return id
}

/** The row, or the refusal that says it is gone. */
export const rowOf = async <S extends Subject>(subject: S, id: number): Promise<Row<S>> => {
  const row = await database()
    .selectFrom(subject as Subject)
    .selectAll()
    .where('id', '=', id)
    .executeTakeFirst()
  if (!row) throw new Refusal(fault('entry.gone', { thing: subject, id }))
  return row as unknown as Row<S>
}

/** Refuses a change that started from a revision that is no longer the newest of that thing. */
export const requireRevision = async (
  subject: Subject,
  row: { id: number; revision: number },
  name: string,
  startedFrom: number,
  current: unknown,
) => {
  if (row.revision === startedFrom) return
  const revision = await database().selectFrom('revision').select(['who', 'at']).where('number', '=', row.revision).executeTakeFirst()
  const facts = { thing: subject, name, who: revision?.who ?? 'Somebody', at: revision?.at.toISOString() ?? 'an unknown time' }
  throw new Refusal(fault('entry.edited', facts), [], { current })
}

const uniqueViolation = '23505'

/** Turns the database's refusal of a second thing by the same name into ours. */
export const namesTaken = async <T>(thing: Subject | 'person', name: string, field: string, work: Promise<T>): Promise<T> => {
  try {
    return await work
  } catch (error) {
    if ((error as { code?: string }).code !== uniqueViolation) throw error
    const taken = nameInDetail((error as { detail?: string }).detail) ?? name
    throw new Refusal(fault('entry.taken', { thing, name: taken }), [{ path: field, message: `There is a ${thing} “${taken}” already.` }])
  }
}

const nameInDetail = (detail: string | undefined) => /\)=\((.*)\) already exists/.exec(detail ?? '')?.[1]

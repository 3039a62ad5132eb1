import type { H3Event } from 'h3'
import { fault } from '#core/faults/catalogue'
import type { Editor, Row } from '#db/editor'
import type { Subject } from '#db/subjects'
import { database } from './database'
import { requireWho } from '../access/access'
import { Refusal } from '../answers/refusal'

/** Who makes the change, as the revisions name them. */
export const whoIs = (event: H3Event): string => requireWho(event).name

/** The same under the lock of a change, so that nobody else can have changed it until that is done. */
export const lockedRow = async <S extends Subject>(editor: Editor, subject: S, id: number): Promise<Row<S>> =>
  present(await editor.row(subject, id), subject, id)

const present = <R>(row: R | undefined, thing: Subject, id: number): R => {
  if (!row) throw new Refusal(fault('entry.gone', { thing, id }))
  return row
}

/** The row, or the refusal that says it is gone. */
export const rowOf = async <S extends Subject>(subject: S, id: number): Promise<Row<S>> => {
  const row = await database()
    .selectFrom(subject as Subject)
    .selectAll()
    .where('id', '=', id)
    .executeTakeFirst()
  return present(row as Row<S> | undefined, subject, id)
}

/** Refuses a change that started from a revision that is no longer the newest of that thing. */
export const requireRevision = async (
  editor: Editor,
  subject: Subject,
  row: { id: number; revision: number },
  name: string,
  startedFrom: number,
  current: unknown,
) => {
  if (row.revision === startedFrom) return
  const revision = await editor.db.selectFrom('revision').select(['who', 'at']).where('number', '=', row.revision).executeTakeFirst()
  const facts = { thing: subject, name, who: revision?.who ?? 'Somebody', at: revision?.at.toISOString() ?? 'an unknown time' }
  throw new Refusal(fault('entry.edited', facts), [], { current })
}

/** Links and outlets stay of the kind that they were made as: their settings, tags and clients depend on it. */
export const requireKind = (thing: 'link' | 'outlet', before: { kind: string }, kind: string) => {
  if (before.kind === kind) return
  throw new Refusal(fault('entry.kind', { thing, is: before.kind, wanted: kind }), [
    { path: `${thing}.kind`, message: `This ${thing} is of the kind ${before.kind}, and stays that.` },
  ])
}

const uniqueViolation = '23505'

/** Turns the database's refusal of a second thing by the same name into ours. */
export const namesTaken = async <T>(
  thing: Subject | 'person' | 'watch list' | 'set of trends' | 'check sheet',
  name: string,
  field: string,
  work: Promise<T>,
): Promise<T> => {
  try {
    return await work
  } catch (error) {
    if ((error as { code?: string }).code !== uniqueViolation) throw error
    const taken = nameInDetail((error as { detail?: string }).detail) ?? name
    throw new Refusal(fault('entry.taken', { thing, name: taken }), [{ path: field, message: `There is a ${thing} “${taken}” already.` }])
  }
}

/** Where the name alone has to be the only one. */
const nameInDetail = (detail: string | undefined) => /^Key \((?!person_id).*\)=\((.*)\) already exists/.exec(detail ?? '')?.[1]

import { isDeepStrictEqual } from 'node:util'
import { sql, type Kysely } from 'kysely'
import type { SiteFacts } from '#shared/siteFacts'
import { changeConfiguration } from './configuration'
import type { Editor } from './editor'
import { readStored, subjectsInOrder, type Subject, type ThingOf } from './subjects'
import type { Database } from './tables'
import type { Apart, Choice } from '#shared/heldDatabase'

/** Everything that is to be in the database. */
export interface Wanted {
  revision: number
  site: SiteFacts
  things: { [S in Subject]: ReadonlyMap<number, ThingOf[S]> }
}

/**
 * Makes one of a database and of what is in force, where it is of an older state or another one, by a revision that comes after both.
 * `in force`: that comes back into the database, things under their ids, and what is not in force goes; people, and what nobody
 * brings into force, stay as they are there. `database`: it holds as it is; what is another thing there counts as changed.
 */
export const settle = async (db: Kysely<Database>, who: string, wanted: Wanted, choice: Choice): Promise<{ revision: number }> => {
  // a revision of the same number would be taken for the one that was in force
  await db
    .updateTable('site')
    .set({ revision: sql<number>`greatest(revision, ${wanted.revision})` })
    .execute()
  const what = choice === 'in force' ? `Brought back what was in force, revision ${wanted.revision}` : 'Took the database as it was found'
  const { revision } = await changeConfiguration(db, who, what, async (editor) => {
    await sql`set constraints all deferred`.execute(editor.db)
    const plans = []
    for (const subject of subjectsInOrder()) plans.push(await planFor(editor.db, subject, wanted.things[subject]))
    if (choice === 'in force') await bringBack(editor, wanted, plans)
    else for (const { subject, there } of plans) await editor.updateUnseen(subject, there)
  })
  return { revision }
}

const bringBack = async (editor: Editor, { site: facts }: Wanted, plans: readonly Plan[]) => {
  const { isCase: _, fileRoots, history, journal, nodeDoor, ...site } = facts
  const json = (value: object) => JSON.stringify(value)
  await editor.db
    .updateTable('site')
    .set({ ...site, fileRoots: json(fileRoots), history: json(history), journal: json(journal), nodeDoor: nodeDoor && json(nodeDoor) })
    .execute()
  for (const { subject, gone } of [...plans].reverse()) await editor.remove(subject, gone)
  for (const { subject, other } of plans) await editor.updateUnseen(subject, other)
  for (const { subject, missing } of plans) await editor.insertUnseen(subject, missing)
  // new ones do not get the numbers of those that came back
  for (const { subject } of plans)
    await sql`select setval(pg_get_serial_sequence(${`"${subject}"`}, 'id'), greatest((select max(id) from ${sql.table(subject)}), 1))`.execute(
      editor.db,
    )
}

/** What of a database is not as it is in force, by subject: things that are only there, that are others there, and that are missing there. */
export const apartFrom = async (db: Kysely<Database>, wanted: Wanted): Promise<Apart[]> => {
  const all: Apart[] = []
  for (const subject of subjectsInOrder()) {
    const { gone, other, missing } = await planFor(db, subject, wanted.things[subject])
    if (gone.length + other.length + missing.length > 0)
      all.push({ subject, only: gone.length, other: other.length, missing: missing.length })
  }
  return all
}

interface Plan {
  subject: Subject
  gone: { id: number }[]
  /** As in force, and as they are there. */
  other: ThingOf[Subject][]
  there: ThingOf[Subject][]
  missing: ThingOf[Subject][]
}

const planFor = async <S extends Subject>(db: Kysely<Database>, subject: S, wanted: ReadonlyMap<number, ThingOf[S]>): Promise<Plan> => {
  const { rows } = await sql<{ id: number }>`select * from ${sql.table(subject)}`.execute(db)
  const there = new Map(rows.map((row) => [row.id, readStored(subject, row)]))
  const isThere = ({ id }: ThingOf[S]) => there.has(id)
  const isSame = (thing: ThingOf[S]) => {
    const read = there.get(thing.id)!
    return read.ok && isDeepStrictEqual({ ...read.thing, revision: 0 }, { ...thing, revision: 0 })
  }
  const all = [...wanted.values()]
  const other = all.filter((thing) => isThere(thing) && !isSame(thing))
  return {
    ...{ subject, other },
    there: other.flatMap(({ id }) => {
      const read = there.get(id)!
      return read.ok ? [read.thing] : []
    }),
    gone: rows.filter(({ id }) => !wanted.has(id)),
    missing: all.filter((thing) => !isThere(thing)),
  }
}

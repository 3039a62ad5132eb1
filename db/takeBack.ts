import { sql, type Kysely } from 'kysely'
import { changeConfiguration, type Editor, type Row } from './configuration'
import { readStored, subjectsInOrder, type Subject, type ThingOf } from './subjects'
import type { Change, Database } from './tables'

class Impossible extends Error {}

/**
 * Undoes a revision by a new one: what it made goes, what it removed comes back under its old id,
 * what it changed is as before. Refused where one of these things has changed again since.
 */
export const takeBack = async (db: Kysely<Database>, who: string, number: number): Promise<{ revision: number } | { problem: string }> => {
  const found = await db.selectFrom('revision').select(['what', 'changes']).where('number', '=', number).executeTakeFirst()
  if (!found) return { problem: 'there is no such revision.' }
  if (found.changes.length === 0) return { problem: 'it changed nothing that can be put back.' }
  try {
    const { revision } = await changeConfiguration(db, who, `Took back revision ${number}: ${found.what}`, async (editor) => {
      await sql`set constraints all deferred`.execute(editor.db)
      await removeMade(editor, found.changes, number)
      await bringBack(editor, found.changes, number)
    })
    return { revision }
  } catch (error) {
    if (error instanceof Impossible) return { problem: error.message }
    if (['23505', '23503'].includes((error as { code?: string }).code ?? '')) return { problem: 'its place is taken by something newer.' }
    throw error
  }
}

const ofSubject = (changes: Change[], subject: Subject) => changes.filter((change) => change.subject === subject)

const removeMade = async (editor: Editor, changes: Change[], number: number) => {
  const made = changes.filter(({ before }) => before === null)
  const rows = await presentRows(editor, made, number)
  for (const subject of subjectsInOrder().reverse())
    await editor.remove(
      subject,
      rows.filter((_, i) => made[i]!.subject === subject),
    )
}

const bringBack = async (editor: Editor, changes: Change[], number: number) => {
  const removed = changes.filter(({ before, after }) => before !== null && after === null)
  for (const subject of subjectsInOrder())
    await editor.insert(
      subject,
      ofSubject(removed, subject).map((change) => before(change) as never),
    )
  const changed = changes.filter(({ before, after }) => before !== null && after !== null)
  const rows = await presentRows(editor, changed, number)
  for (const [i, change] of changed.entries()) await editor.update(change.subject, rows[i]!, withoutId(before(change)) as never)
}

/** What was stored then, in the form of today; impossible where that cannot be read any more. */
const before = ({ subject, id, before }: Change): ThingOf[Subject] => {
  const was = readStored(subject, before)
  if (!was.ok) throw new Impossible(`what ${subject} ${id} was before cannot be read by this version: ${was.problem}`)
  return was.thing
}

const withoutId = ({ id: _, ...rest }: ThingOf[Subject]) => rest

/** The rows as they are now, in the order of the changes; impossible when one has changed again or is gone. */
const presentRows = async (editor: Editor, changes: Change[], number: number): Promise<Row<Subject>[]> => {
  const found = new Map<string, Row<Subject>>()
  for (const subject of subjectsInOrder()) {
    const ids = ofSubject(changes, subject).map(({ id }) => id)
    for (const row of await editor.rows(subject, ids)) found.set(`${subject} ${row.id}`, row)
  }
  return changes.map(({ subject, id }) => {
    const row = found.get(`${subject} ${id}`)
    if (!row) throw new Impossible(`${subject} ${id} is gone since.`)
    if (row.revision !== number) throw new Impossible(`${subject} ${id} was changed again in revision ${row.revision}.`)
    return row
  })
}

import type { Kysely } from 'kysely'
import { changeConfiguration, type Editor, type Row } from './configuration'
import type { Change, Database, Subject } from './tables'

class Impossible extends Error {}

/** What must be there before what: tags refer to links. */
const order: Subject[] = ['link', 'outlet', 'tag']
const jsonColumns = new Set(['settings', 'options', 'scaling'])

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
      for (const subject of [...order].reverse()) await removeMade(editor, ofSubject(found.changes, subject), number)
      for (const subject of order) await bringBack(editor, ofSubject(found.changes, subject), number)
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
  for (const change of changes.filter(({ before }) => before === null)) {
    await editor.remove(change.subject, [await presentRow(editor, change, number)])
  }
}

const bringBack = async (editor: Editor, changes: Change[], number: number) => {
  for (const change of changes.filter(({ before }) => before !== null)) {
    const { revision: _, ...before } = change.before!
    const columns = Object.fromEntries(
      Object.entries(before).map(([name, value]) => [name, jsonColumns.has(name) && value !== null ? JSON.stringify(value) : value]),
    )
    if (change.after === null) await editor.insert(change.subject, [columns as never])
    else await editor.update(change.subject, await presentRow(editor, change, number), withoutId(columns) as never)
  }
}

const withoutId = ({ id: _, ...rest }: Record<string, unknown>) => rest

const presentRow = async (editor: Editor, { subject, id }: Change, number: number): Promise<Row<Subject>> => {
  const row = (await editor.db.selectFrom(subject).selectAll().where('id', '=', id).executeTakeFirst()) as Row<Subject> | undefined
  if (!row) throw new Impossible(`${subject} ${id} is gone since.`)
  if (row.revision !== number) throw new Impossible(`${subject} ${id} was changed again in revision ${row.revision}.`)
  return row
}

import { sql } from 'kysely'
import { setProblems } from '#core/records/problems'
import type { RecordSetDraft } from '#core/records/settings'
import type { Editor, Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { RecordSet } from '#shared/records/recordSet'
import { isWithin, movedPath } from '#core/tags/path'
import { invalid } from '../answers/checked'
import { renameEverywhere } from '../tags/renaming'

export const shownSet = (row: Row<'recordSet'>): RecordSet => thingOf('recordSet', row)

/** Of many rows, the sets that can be read. */
export const shownSets = (rows: readonly Row<'recordSet'>[]): RecordSet[] => readable(rows, shownSet)

/** Refuses a set that names what is not there, or wants what it does not do. @param id its own, where it is saved */
export const requireSoundSet = async (db: Pick<Editor['db'], 'selectFrom'>, set: RecordSetDraft, id: number | null) => {
  const links = await db.selectFrom('link').select(['id', 'name', 'kind']).execute()
  const others = await db.selectFrom('recordSet').select(['id', 'name', 'folder']).execute()
  const problems = setProblems(set, {
    link: (linkId) => links.find((link) => link.id === linkId),
    others: others.filter((other) => other.id !== id),
  })
  if (problems.length > 0) throw invalid(problems)
}

/** The tags of a set stand in its folder: where that is called otherwise, they are, and whatever refers to them follows. */
export const moveTags = async (editor: Editor, id: number, from: string, to: string) => {
  if (from === to) return
  await sql`set constraints all deferred`.execute(editor.db)
  const rows = await editor.db.selectFrom('tag').select(['id', 'path']).where('set_id', '=', id).execute()
  const moved = rows.filter(({ path }) => isWithin(path, from)).map(({ id, path }) => ({ id, path: movedPath(path, from, to) }))
  await editor.updateUnseen('tag', moved)
  // what else lies in that folder stays where it is
  const called = new Map(rows.map(({ path }) => [path, movedPath(path, from, to)]))
  await renameEverywhere(editor, (path) => called.get(path) ?? (path === from ? to : path))
}

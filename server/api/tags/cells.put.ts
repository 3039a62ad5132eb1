import { sql } from 'kysely'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import { thingOf, thingsOf } from '#db/rows'
import { changeCells } from '#shared/api/tags'
import { editedTag } from '#shared/tagCsv/edit'
import type { Tag } from '#shared/tags'
import { fault } from '#core/faults/catalogue'
import { invalid } from '../../answers/checked'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { linksNow } from '../../imports/linksNow'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { renameEverywhere } from '../../tags/renaming'
import { settleTags, withLastingAddresses } from '../../tags/tags'

export default defineRoute(changeCells, async ({ event, body: { edits } }) => {
  const ids = edits.map(({ id }) => id)
  const before = new Map(
    thingsOf('tag', await database().selectFrom('tag').selectAll().where('id', 'in', ids).execute()).map((tag) => [tag.id, tag]),
  )
  const gone = ids.find((id) => !before.has(id))
  if (gone !== undefined) throw new Refusal(fault('entry.gone', { thing: 'tag', id: gone }))
  const drafts = await withLastingAddresses(database(), await draftsOf(edits, before))
  const change = changeConfiguration(database(), whoIs(event), `Changed ${counted(edits.length, 'tag')}`, async (editor) => {
    await sql`set constraints all deferred`.execute(editor.db)
    const rows = new Map((await editor.rows('tag', ids)).map((row) => [row.id, row]))
    for (const { id, revision } of edits) {
      const row = rows.get(id) ?? (await lockedRow(editor, 'tag', id))
      await requireRevision(editor, 'tag', row, row.path, revision, thingOf('tag', row))
    }
    const ready = await settleTags(editor.db, drafts, (i) => `edits.${i}.cells.`)
    await editor.updateUnseen(
      'tag',
      ready.map((draft, i) => ({ ...draft, id: ids[i]! })),
    )
    const called = new Map(ready.map(({ path }, i) => [before.get(ids[i]!)!.path, path]))
    await renameEverywhere(editor, (path) => called.get(path) ?? path)
    return editor.rows('tag', ids)
  })
  const { result, revision } = await namesTaken('tag', '', 'edits.0.cells.path', change)
  return { revision, tags: thingsOf('tag', result) }
})

interface Edit {
  id: number
  cells: Record<string, string>
}

/** With every cell that is not right told at once. */
const draftsOf = async (edits: readonly Edit[], before: ReadonlyMap<number, Tag>) => {
  const links = await linksNow()
  const edited = edits.map(({ id, cells }) => editedTag(before.get(id)!, cells, links))
  const problems = edited.flatMap(({ problems }, i) =>
    problems.map(({ column, message }) => ({ path: `edits.${i}.cells.${column ?? ''}`, message })),
  )
  if (problems.length > 0) throw invalid(problems)
  return edited.map(({ draft }) => draft)
}

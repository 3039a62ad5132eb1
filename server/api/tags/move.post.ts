import { sql } from 'kysely'
import { isWithin, movedPath, pathProblem } from '#core/tags/path'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import { moveTags } from '#shared/api/tags'
import { invalid } from '../../answers/checked'
import { defineRoute } from '../../answers/route'
import { requireNotOwned } from '../../equipment/owned'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { plain } from '../../store/likeText'
import { renameEverywhere } from '../../tags/renaming'

export default defineRoute(moveTags, async ({ event, body: { from, to } }) => {
  if (from !== to && isWithin(to, from)) throw invalid([{ path: 'to', message: 'A folder does not go into itself.' }])
  const nowCalled = (path: string) => movedPath(path, from, to)
  const change = changeConfiguration(database(), whoIs(event), `Moved ${from} to ${to}`, async (editor) => {
    await sql`set constraints all deferred`.execute(editor.db)
    const tags = await editor.db
      .selectFrom('tag')
      .select(['id', 'path', 'source'])
      .where((eb) => eb.or([eb('path', '=', from), eb('path', 'like', `${plain(from)}/%`)]))
      .execute()
    if (tags.length === 0) throw invalid([{ path: 'from', message: `Nothing is called ${from}, and nothing lies in it.` }])
    requireNotOwned(tags)
    const moved = tags.map(({ id, path }) => ({ id, path: nowCalled(path) }))
    const wrong = moved.map(({ path }) => pathProblem(path)).find((problem) => problem !== null)
    if (wrong) throw invalid([{ path: 'to', message: wrong }])
    editor.what = `Moved ${counted(tags.length, 'tag')} from ${from} to ${to}`
    await editor.updateUnseen('tag', moved)
    const named = await renameEverywhere(editor, nowCalled)
    return { tags: tags.length, others: named.outlets, readers: named.tags }
  })
  const { result, revision } = await namesTaken('tag', to, 'to', change)
  return { ...result, revision }
})

import { isDeepStrictEqual } from 'node:util'
import { renamedIn } from '#core/bridges/renamed'
import { renamedPanes } from '#core/displays/names'
import { isOfOne } from '#core/history/settings'
import { renamedSet } from '#core/records/renamed'
import { outletFactsOf } from '#core/outlets/registry'
import type { Editor } from '#db/editor'
import { thingsOf } from '#db/rows'
import { readingKinds, rulesOf } from '#shared/sources/registry'

/** Whatever names tags or folders by their paths names them as they are called now. @returns of how many of each kind that is so */
export const renameEverywhere = async (editor: Editor, nowCalled: (path: string) => string) => ({
  outlets: await renameInOutlets(editor, nowCalled),
  tags: await renameInTags(editor, nowCalled),
  bridges: await renameInBridges(editor, nowCalled),
  sets: await renameInSets(editor, nowCalled),
  equipment: await renameInEquipment(editor, nowCalled),
  recordings: await renameInRecordings(editor, nowCalled),
  displays: await renameInDisplays(editor, nowCalled),
})

const renameInOutlets = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const outlets = thingsOf('outlet', await editor.db.selectFrom('outlet').selectAll().execute())
  const renamed = outlets.flatMap((outlet) => {
    const settings = outletFactsOf(outlet.kind).renamed(outlet.settings, nowCalled)
    return isDeepStrictEqual(settings, outlet.settings) ? [] : [{ id: outlet.id, settings }]
  })
  await editor.updateUnseen('outlet', renamed)
  return renamed.length
}

const renameInBridges = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const bridges = thingsOf('bridge', await editor.db.selectFrom('bridge').selectAll().execute())
  const renamed = bridges.flatMap(({ id, when, take, send }) => {
    const now = renamedIn({ when, take, send }, nowCalled)
    return isDeepStrictEqual(now, { when, take, send }) ? [] : [{ id, ...now }]
  })
  await editor.updateUnseen('bridge', renamed)
  return renamed.length
}

/** What a piece of equipment is bound to. */
const renameInEquipment = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const equipment = thingsOf('equipment', await editor.db.selectFrom('equipment').selectAll().execute())
  const renamed = equipment.flatMap(({ id, bindings }) => {
    const now = Object.fromEntries(Object.entries(bindings).map(([name, path]) => [name, nowCalled(path)]))
    return isDeepStrictEqual(now, bindings) ? [] : [{ id, bindings: now }]
  })
  await editor.updateUnseen('equipment', renamed)
  return renamed.length
}

/** Recordings of one tag go with it; patterns stay as somebody wrote them. */
const renameInRecordings = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const recordings = thingsOf('recording', await editor.db.selectFrom('recording').selectAll().execute())
  const renamed = recordings.filter(isOfOne).flatMap(({ id, pattern }) => {
    const now = nowCalled(pattern)
    return now === pattern ? [] : [{ id, pattern: now }]
  })
  await editor.updateUnseen('recording', renamed)
  return renamed.length
}

const renameInDisplays = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const displays = thingsOf('display', await editor.db.selectFrom('display').selectAll().execute())
  const renamed = displays.flatMap(({ id, panes }) => {
    const now = renamedPanes(panes, nowCalled)
    return isDeepStrictEqual(now, panes) ? [] : [{ id, panes: now }]
  })
  await editor.updateUnseen('display', renamed)
  return renamed.length
}

const renameInSets = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const sets = thingsOf('recordSet', await editor.db.selectFrom('recordSet').selectAll().execute())
  const renamed = sets.flatMap(({ id, folder, how }) => {
    const now = renamedSet({ folder, how }, nowCalled)
    return isDeepStrictEqual(now, { folder, how }) ? [] : [{ id, ...now }]
  })
  await editor.updateUnseen('recordSet', renamed)
  return renamed.length
}

/** Tags that read other tags. */
const renameInTags = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const tags = thingsOf('tag', await editor.db.selectFrom('tag').selectAll().where('source', 'in', readingKinds).execute())
  const renamed = tags.flatMap(({ id, source }) => {
    const now = rulesOf(source.kind).paths!.renamed(source, nowCalled)
    return isDeepStrictEqual(now, source) ? [] : [{ id, source: now }]
  })
  await editor.updateUnseen('tag', renamed)
  return renamed.length
}

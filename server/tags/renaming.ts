import { isDeepStrictEqual } from 'node:util'
import { outletFactsOf } from '#core/outlets/registry'
import type { Editor } from '#db/editor'
import { thingsOf } from '#db/rows'

/** Whatever names tags or folders by their paths names them as they are called now. @returns of how many things that is so */
export const renameEverywhere = async (editor: Editor, nowCalled: (path: string) => string): Promise<number> => {
  const outlets = thingsOf('outlet', await editor.db.selectFrom('outlet').selectAll().execute())
  const renamed = outlets.flatMap((outlet) => {
    const settings = outletFactsOf(outlet.kind).renamed(outlet.settings, nowCalled)
    return isDeepStrictEqual(settings, outlet.settings) ? [] : [{ id: outlet.id, settings }]
  })
  await editor.updateUnseen('outlet', renamed)
  return renamed.length
}

import type { Kysely } from 'kysely'
import type { FoundNode, TakingPlan } from '#core/opcua/takingOver'
import { pathFrom } from '#core/tags/naming'
import { pathProblem } from '#core/tags/path'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import type { ThingOf } from '#db/subjects'
import type { Database } from '#db/tables'
import type { PlaceDetails } from '#shared/browse'
import { takenPoint } from '#shared/takenPoint'
import type { TagDraft } from '#shared/tags'
import type { JournalWriter } from '../journal/journal'
import { freePath } from './freePath'
import { LaterSaves } from './laterSaves'

/** A node that was found, with its names and all that is said of it. */
export interface TakenNode extends FoundNode {
  names: readonly string[]
  details: PlaceDetails
}

/** Makes, changes and removes tags for good, as what a link takes over comes to others. */
export class TakenOver {
  private later: LaterSaves

  constructor(
    private db: Kysely<Database>,
    journal: JournalWriter,
  ) {
    this.later = new LaterSaves(journal)
  }

  take(link: ThingOf['link'], folder: string, plan: TakingPlan<TakenNode>) {
    this.later.add(link.id, { source: link.name, save: () => taken(this.db, link, folder, plan) })
  }

  close(): Promise<void> {
    return this.later.close()
  }
}

class NothingLeft extends Error {}

/** In words what was done; null where the link is another by now, or nothing was left to be done. */
const taken = async (db: Kysely<Database>, link: ThingOf['link'], folder: string, plan: TakingPlan<TakenNode>): Promise<string | null> => {
  try {
    const { result } = await changeConfiguration(db, `Link “${link.name}”`, '', (editor) => bring(editor, link, folder, plan))
    return result
  } catch (error) {
    if (error instanceof NothingLeft) return null
    throw error
  }
}

const bring = async (editor: Editor, link: ThingOf['link'], folder: string, { make, change, remove }: TakingPlan<TakenNode>) => {
  const row = await editor.row('link', link.id)
  if (!row || row.revision !== link.revision) throw new NothingLeft()
  const own = new Set(
    (await editor.rows('tag', [...remove, ...change.map(({ id }) => id)])).flatMap((tag) => (tag.link_id === link.id ? [tag.id] : [])),
  )
  const gone = (await editor.rows('tag', remove)).filter(({ id }) => own.has(id))
  const other = change.filter(({ id }) => own.has(id))
  await editor.remove('tag', gone)
  await editor.updateUnseen('tag', other)
  const made = await drafts(editor, link.id, folder, make)
  await editor.insertUnseen('tag', made)
  if (gone.length + other.length + made.length === 0) throw new NothingLeft()
  const parts = [
    made.length > 0 && `took over ${counted(made.length, 'tag')}`,
    other.length > 0 && `changed the type of ${counted(other.length, 'tag')}`,
    gone.length > 0 && `removed ${counted(gone.length, 'tag')}`,
  ]
  return (editor.what = `Link “${link.name}”: ${parts.filter(Boolean).join(', ')}`)
}

/** Without those that somebody made meanwhile; a path that is taken gets a number, and one that cannot be is left out. */
const drafts = async (editor: Editor, linkId: number, folder: string, make: readonly TakenNode[]): Promise<TagDraft[]> => {
  if (make.length === 0) return []
  const rows = await editor.db.selectFrom('tag').select(['path', 'link_id', 'address']).execute()
  const paths = new Set(rows.map(({ path }) => path))
  const known = new Set(rows.flatMap(({ link_id, address }) => (link_id === linkId ? [address] : [])))
  return make.flatMap(({ names, details, address, member }) => {
    if (member === '' && known.has(address)) return []
    const path = freePath(pathFrom(folder, names, 0, 'same'), paths)
    if (pathProblem(path) !== null) return []
    paths.add(path)
    return [takenPoint(path, details, { linkId, interval: null, options: { takenOver: true } })]
  })
}

import type { Kysely } from 'kysely'
import type { FollowPlan } from '#core/records/follow'
import type { MadeTag } from '#core/records/items'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import { thingOf } from '#db/rows'
import type { ThingOf } from '#db/subjects'
import type { Database } from '#db/tables'
import { plainValue, type TagDraft } from '#shared/tags'
import type { JournalWriter } from '../journal/journal'
import { freePath } from './freePath'
import { LaterSaves } from './laterSaves'

/** Makes, changes and removes the tags of record sets for good, as their tables come to other rows and columns. */
export class FollowedSets {
  private later: LaterSaves

  constructor(
    private db: Kysely<Database>,
    journal: JournalWriter,
  ) {
    this.later = new LaterSaves(journal)
  }

  follow(set: ThingOf['recordSet'], plan: FollowPlan) {
    this.later.add(set.id, { source: set.name, save: () => followed(this.db, set, plan) })
  }

  close(): Promise<void> {
    return this.later.close()
  }
}

class NothingLeft extends Error {}

/** In words what was done; null where the set is another by now, or nothing was left to be done. */
const followed = async (db: Kysely<Database>, set: ThingOf['recordSet'], plan: FollowPlan): Promise<string | null> => {
  try {
    const { result } = await changeConfiguration(db, `Record set “${set.name}”`, '', (editor) => bring(editor, set, plan))
    return result
  } catch (error) {
    if (error instanceof NothingLeft) return null
    throw error
  }
}

const bring = async (editor: Editor, set: ThingOf['recordSet'], { make, change, remove }: FollowPlan): Promise<string> => {
  const row = await editor.row('recordSet', set.id)
  if (!row || row.revision !== set.revision) throw new NothingLeft()
  const own = new Map((await editor.rows('tag', [...remove, ...change.map(({ id }) => id)])).map((tag) => [tag.id, tag]))
  const gone = remove.flatMap((id) => own.get(id) ?? []).filter((tag) => tag.set_id === set.id)
  const other = change.filter(({ id }) => own.get(id)?.set_id === set.id)
  await editor.remove('tag', gone)
  await editor.updateUnseen('tag', other)
  const made = await drafts(editor, set, make)
  await editor.insertUnseen('tag', made)
  if (gone.length + other.length + made.length === 0) throw new NothingLeft()
  const parts = [
    made.length > 0 && `made ${counted(made.length, 'tag')}`,
    other.length > 0 && `changed the type of ${counted(other.length, 'tag')}`,
    gone.length > 0 && `removed ${counted(gone.length, 'tag')}`,
  ]
  return (editor.what = `Record set “${set.name}”: ${parts.filter(Boolean).join(', ')}`)
}

/** Without those that somebody made meanwhile; a path that is taken gets a number. */
const drafts = async (editor: Editor, set: ThingOf['recordSet'], make: readonly MadeTag[]): Promise<TagDraft[]> => {
  if (make.length === 0) return []
  const within = `${set.folder.replace(/[\\%_]/g, (character) => `\\${character}`)}/%`
  const rows = await editor.db
    .selectFrom('tag')
    .selectAll()
    .where((eb) => eb.or([eb('path', 'like', within), eb('set_id', '=', set.id)]))
    .execute()
  const taken = new Set(rows.map(({ path }) => path))
  const known = new Set(rows.filter(({ set_id }) => set_id === set.id).map((tag) => sourceText(thingOf('tag', tag).source)))
  return make.flatMap((tag) => {
    const draft = draftOf(set.id, tag)
    if (known.has(sourceText(draft.source))) return []
    const path = freePath(tag.path, taken)
    taken.add(path)
    return [{ ...draft, path }]
  })
}

const sourceText = (source: TagDraft['source']) =>
  source.kind === 'record' ? JSON.stringify([source.part, source.column, source.row]) : ''

const draftOf = (recordSetId: number, { part, column, row, path, type, access, description }: MadeTag): TagDraft => ({
  ...plainValue,
  ...{ path, type, access, description },
  source: { kind: 'record', recordSetId, part, column, row },
})

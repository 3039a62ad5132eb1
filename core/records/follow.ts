import type { DataType } from '../tags/types'
import { itemKey, tagsOf, type MadeTag, type RecordItem, type SetShape } from './items'
import type { RecordSetDraft } from './settings'

/** A tag of a set as it is. */
export interface KnownTag extends RecordItem {
  id: number
  type: DataType
  access: 'read' | 'readwrite'
}

/** What has to be done so that the tags of a set are what it comes to. */
export interface FollowPlan {
  make: MadeTag[]
  change: { id: number; type: MadeTag['type']; access: MadeTag['access'] }[]
  remove: number[]
}

export const followPlan = (set: Pick<RecordSetDraft, 'folder' | 'how'>, shape: SetShape, known: Iterable<KnownTag>): FollowPlan => {
  const wanted = new Map(tagsOf(set, shape).map((tag) => [itemKey(tag), tag]))
  const columns = shape.columns && new Set(shape.columns.map(({ name }) => name))
  const plan: FollowPlan = { make: [], change: [], remove: [] }
  const there = new Set<string>()
  for (const tag of known) {
    const key = itemKey(tag)
    const like = wanted.get(key)
    if (like && !there.has(key)) {
      there.add(key)
      if (like.type !== tag.type || like.access !== tag.access) plan.change.push({ id: tag.id, type: like.type, access: like.access })
    } else if (like || !isKept(set, shape, tag, columns)) plan.remove.push(tag.id)
  }
  for (const [key, tag] of wanted) if (!there.has(key)) plan.make.push(tag)
  return plan
}

export const isNothing = ({ make, change, remove }: FollowPlan) => make.length + change.length + remove.length === 0

/** A row that is gone may come back: its tags stay unless it was chosen otherwise. So do all while nobody knows the columns. */
const isKept = (
  { how }: Pick<RecordSetDraft, 'how'>,
  { rows }: SetShape,
  { part, column, row }: KnownTag,
  columns: ReadonlySet<string> | null,
) => {
  if (part === 'value' && columns === null) return true
  if (part !== 'value' || row === '' || rows === null || !columns?.has(column)) return false
  return how.kind === 'snapshot' ? how.gone === 'keep' : true
}

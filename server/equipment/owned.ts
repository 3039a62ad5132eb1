import { fault } from '#core/faults/catalogue'
import { propertyTags, type PropertyTag } from '#core/equipment/made'
import type { Editor } from '#db/editor'
import type { FieldMessage } from '#shared/faults'
import { isFrom } from '#shared/sources/registry'
import type { TagDraft } from '#shared/tags'
import { Refusal } from '../answers/refusal'
import { modelNow } from './model'

/** Refuses what would take tags away from the equipment that they belong to. */
export const requireNotOwned = (rows: readonly { path: string; source: string }[]) => {
  const owned = rows.find(({ source }) => source === 'property')
  if (owned) throw new Refusal(fault('equipment.owned', { path: owned.path }))
}

/** Drafts of properties that are not as their equipment has them. */
export const ownedProblems = async (
  db: Pick<Editor['db'], 'selectFrom'>,
  drafts: readonly TagDraft[],
  prefix: (index: number) => string,
): Promise<FieldMessage[]> => {
  if (!drafts.some((draft) => isFrom('property', draft))) return []
  const model = await modelNow(db)
  const decided = new Map(
    [...model.equipment.values()].flatMap((one) => propertyTags(model, one)).map((tag) => [`${tag.equipmentId} ${tag.property}`, tag]),
  )
  return drafts.flatMap((draft, index) => {
    if (!isFrom('property', draft)) return []
    const tag = decided.get(`${draft.source.equipmentId} ${draft.source.property}`)
    if (!tag) return [{ path: `${prefix(index)}source`, message: 'No equipment has this property.' }]
    return differing(draft, tag).map((field) => ({
      path: prefix(index) + field,
      message: 'Its equipment and class decide this: change it there.',
    }))
  })
}

const differing = (draft: TagDraft, tag: PropertyTag): string[] => [
  ...(['path', 'type', 'unit'] as const).filter((field) => draft[field] !== tag[field]),
  ...(JSON.stringify(draft.limits) === JSON.stringify(tag.limits) ? [] : ['limits']),
]

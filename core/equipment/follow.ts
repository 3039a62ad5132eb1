import { identityOf, propertyTags, type PropertyTag } from './made'
import type { Model } from './model'

/** A tag of equipment as it is. */
export interface KnownProperty extends PropertyTag {
  id: number
}

/** What has to be done so that tags are what equipment comes to. */
export interface PropertyPlan {
  make: PropertyTag[]
  change: (PropertyTag & { id: number })[]
  remove: KnownProperty[]
}

/**
 * Compares the tags that equipment has with those that it is to have. A tag stays the same one where its property is called
 * the same; a rollup only where its window and kind are the same, too, so that no history means two things.
 */
export const propertyPlan = (model: Model, known: Iterable<KnownProperty>): PropertyPlan => {
  const wanted = new Map<string, PropertyTag>()
  for (const one of model.equipment.values()) for (const tag of propertyTags(model, one)) wanted.set(keyOf(tag), tag)
  const plan: PropertyPlan = { make: [], change: [], remove: [] }
  for (const tag of known) {
    const key = keyOf(tag)
    const like = wanted.get(key)
    if (!like) {
      plan.remove.push(tag)
      continue
    }
    wanted.delete(key)
    const { id, ...present } = tag
    if (JSON.stringify(inOrder(present)) !== JSON.stringify(inOrder(like))) plan.change.push({ ...like, id })
  }
  plan.make.push(...wanted.values())
  return plan
}

const keyOf = (tag: PropertyTag) => `${tag.equipmentId} ${identityOf(tag)}`
const inOrder = ({ path, type, unit, description, limits, made }: PropertyTag) => [path, type, unit, description, limits, made]

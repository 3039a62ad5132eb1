import { identityOf, type PropertyTag } from '#core/equipment/made'
import { propertyPlan } from '#core/equipment/follow'
import { Model } from '#core/equipment/model'
import type { ClassDraft } from '#core/equipment/settings'
import { madeText } from '#core/equipment/words'
import type { TagsPlan } from '#shared/equipment/equipment'
import { database } from '../store/database'
import { allClasses, allEquipment, propertiesNow } from './model'

const mostShown = 12

/** What a change of a class would do to tags. @param id its own; null: it is new */
export const planOfClass = async (draft: ClassDraft, id: number | null): Promise<TagsPlan> => {
  const db = database()
  const [classes, equipment] = [await allClasses(db), await allEquipment(db)]
  const before = classes.find((one) => one.id === id)?.name ?? null
  const called = (name: string) => (name === before && before !== null ? draft.name : name)
  const others = classes.filter((one) => one.id !== id).map((one) => ({ ...one, parent: called(one.parent) }))
  const renamed = equipment.map((one) => ({ ...one, class: called(one.class) }))
  const model = new Model([...others, draft], renamed)
  const known = await propertiesNow(db)
  const { make, change, remove } = propertyPlan(model, known)
  const goneByName = new Map(remove.map((tag) => [`${tag.equipmentId} ${tag.property}`, tag]))
  const anew = make.filter((tag) => tag.made.kind === 'rollup' && goneByName.has(`${tag.equipmentId} ${tag.property}`))
  const line = (word: string) => (tag: PropertyTag) => ({ path: tag.path, text: `${word}: ${madeText(tag.made)}` })
  return {
    equipment: renamed.filter((one) => model.isKindOf(one.class, draft.name)).length,
    ...{ made: make.length, changed: change.length, removed: remove.length },
    anew: anew
      .map((tag) => `${tag.path} (${identityOf(goneByName.get(`${tag.equipmentId} ${tag.property}`)!)} before)`)
      .slice(0, mostShown),
    first: [...make.map(line('made')), ...change.map(line('changed')), ...remove.map(line('removed'))].slice(0, mostShown),
  }
}

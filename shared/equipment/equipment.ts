import { z } from 'zod'
import { idField, savedShape } from '#core/contracts/fields'
import { madeOfContract } from '#core/equipment/made'
import { classContract, equipmentContract, propertyContract } from '#core/equipment/settings'

/** Equipment and its classes as they travel. */

export const savedClass = classContract.extend(savedShape).meta({ id: 'EquipmentClass', description: 'What equipment of one kind has.' })
export type EquipmentClass = z.output<typeof savedClass>
export const classChange = z.object({ revision: idField('A revision'), class: classContract })

export const savedEquipment = equipmentContract.extend(savedShape).meta({ id: 'Equipment', description: 'A piece of equipment.' })
export type Equipment = z.output<typeof savedEquipment>
export const equipmentChange = z.object({ revision: idField('A revision'), equipment: equipmentContract })

/** A change of a class, looked at before it is made. */
export const classTrial = z.object({ class: classContract, id: idField('A class').nullable().default(null) })

const plannedTag = z.object({ path: z.string(), text: z.string().describe('What is made, changed or gone, in words.') })
export const tagsPlan = z
  .object({
    equipment: z.int().describe('How many pieces of equipment it is about.'),
    made: z.int(),
    changed: z.int(),
    removed: z.int(),
    anew: z.array(z.string()).describe('Rollups that are others from then on, because their window or kind is: their history begins anew.'),
    first: z.array(plannedTag).describe('The first of what is made, changed and removed.'),
  })
  .meta({ id: 'TagsPlan', description: 'What a change of the model does to tags.' })
export type TagsPlan = z.output<typeof tagsPlan>

export const shownProperty = propertyContract
  .extend({
    tagId: z.int().nullable().describe('Its tag; null: it has none yet.'),
    path: z.string().describe('The path of its tag.'),
    from: z.string().describe('The class that says it.'),
    of: madeOfContract.describe('What its value is made of here.'),
  })
  .meta({ id: 'EquipmentProperty' })
export type ShownProperty = z.output<typeof shownProperty>

export const shownEquipment = savedEquipment.extend({ properties: z.array(shownProperty) }).meta({ id: 'EquipmentWithProperties' })
export type ShownEquipment = z.output<typeof shownEquipment>

/** Bindings that are likely: for each input the tags whose name, type and unit go with it. */
export const bindingTrial = z.object({
  class: z.string().max(80),
  folder: z.string().max(240).default('').describe('Where they are looked for; empty: everywhere.'),
})
export const proposedBinding = z.object({
  property: z.string(),
  path: z.string(),
  why: z.string().describe('What speaks for it.'),
})
export type ProposedBinding = z.output<typeof proposedBinding>

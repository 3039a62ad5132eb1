import { z } from 'zod'
import { idField, momentField, savedShape } from '#core/contracts/fields'
import { toProblem } from '#core/equipment/fromFolders'
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

/** Where many pieces of equipment come from. */
export const bulkSource = z
  .discriminatedUnion('kind', [
    z.object({
      kind: z.literal('table'),
      text: z.string().max(12_000_000, 'At most 12 MB.').describe('A table (CSV, RFC 4180) with the columns path, class, level, description, and inputs and constants by name.'), // prettier-ignore
    }),
    z.object({
      kind: z.literal('folders'),
      class: z.string().min(1, 'Which class.').max(80),
      pattern: z.string().trim().min(1, 'Which folders, as in berth/*/shore.').max(240),
      to: z.string().trim().min(1, 'Where each goes, as in Port/Berth {1}.').max(240),
    }),
  ])
  .superRefine((source, context) => {
    const problem = source.kind === 'folders' ? toProblem(source) : null
    if (problem) context.addIssue({ code: 'custom', message: problem, path: ['to'] })
  })
export type BulkSource = z.output<typeof bulkSource>

export const bulkAsked = z.object({ from: bulkSource })
export const bulkSure = z.object({ from: bulkSource, digest: z.string().max(100).describe('That of the plan that somebody saw.') })

const bulkWhat = z.enum(['made', 'changed', 'alike', 'refused'])
export const bulkPiece = z.object({
  line: z.int().describe('Of the table, or the how many-th folder; 0: it is made because others are part of it.'),
  path: z.string(),
  class: z.string(),
  what: bulkWhat,
  inputs: z.int(),
  bound: z.int().describe('Of its inputs.'),
  absent: z.array(z.string()).describe('Tags that its inputs are bound to, and that are not there.'),
  problems: z.array(z.object({ path: z.string(), message: z.string() })),
})
export type BulkPieceShown = z.output<typeof bulkPiece>
export const bulkPlanShown = z
  .object({
    digest: z.string(),
    ...{ made: z.int(), changed: z.int(), alike: z.int(), refused: z.int() },
    tags: z.int().describe('That are made with them.'),
    pieces: z.array(bulkPiece),
  })
  .meta({ id: 'EquipmentBulkPlan', description: 'What becomes of many pieces of equipment.' })
export type BulkPlanShown = z.output<typeof bulkPlanShown>
export const bulkDone = z.object({ made: z.int(), changed: z.int(), left: z.int().describe('Refused, and left out.'), revision: z.int() })

const offeredOf = z.object({
  path: z.string(),
  ...{ from: momentField, to: momentField },
  samples: z.int().describe('That are read for it, about.'),
})
export const offeredPast = z
  .object({
    samples: z.int().describe('Of all together, about.'),
    inputs: z.array(offeredOf.extend({ bound: z.string().describe('The path of the tag whose past it is.') })),
    workedOut: z.array(offeredOf).describe('What formulas, and children together, would have been. None that goes on from itself.'),
  })
  .meta({ id: 'OfferedPast', description: 'What was recorded of tags before equipment had them, and what can be worked out over it.' })
export type OfferedPast = z.output<typeof offeredPast>

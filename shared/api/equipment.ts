import { z } from 'zod'
import { classContract, equipmentContract } from '#core/equipment/settings'
import {
  offeredPast,
  bindingTrial,
  bulkAsked,
  bulkDone,
  bulkPlanShown,
  bulkSure,
  classChange,
  classTrial,
  equipmentChange,
  proposedBinding,
  savedClass,
  savedEquipment,
  shownEquipment,
  tagsPlan,
} from '../equipment/equipment'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Equipment'

const exampleClass: z.input<typeof classContract> = {
  name: 'Feeder',
  properties: [
    { name: 'rated_power', unit: 'kW', made: { kind: 'constant', value: 2500 } },
    { name: 'power', unit: 'kW', type: 'float32', made: { kind: 'input' } },
    { name: 'load', unit: '%', made: { kind: 'formula', formula: '100 * power / rated_power' } },
    { name: 'load_15min', unit: '%', made: { kind: 'rollup', of: 'load', how: 'mean by time', window: { count: 15, unit: 'minute' } } },
  ],
}
const exampleEquipment: z.input<typeof equipmentContract> = {
  path: 'Harrow Sound/Berth 2/Feeder',
  class: 'Feeder',
  bindings: { power: 'berth/2/shore/active_power' },
}

export const listClasses = operation('GET /equipment-classes', {
  group,
  needs: 'look',
  does: 'The classes of equipment: constants, inputs, formulas and rollups.',
  query: listQuery(['name', 'id', 'revision'], listWhole),
  answer: pageOf(savedClass),
})

export const makeClass = operation('POST /equipment-classes', {
  group,
  needs: 'configure',
  does: 'Makes a class of equipment.',
  body: classContract,
  example: exampleClass,
  answer: savedClass,
  faults: ['entry.taken'],
})

export const showClass = operation('GET /equipment-classes/{id}', {
  group,
  needs: 'look',
  does: 'A class of equipment.',
  answer: savedClass,
})

export const changeClass = operation('PUT /equipment-classes/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a class, unless somebody else did since. All equipment of it follows, with its tags.',
  body: classChange,
  example: { revision: 9, class: exampleClass },
  answer: savedClass,
  faults: ['entry.taken', 'entry.edited'],
})

export const planClass = operation('POST /equipment-classes/plan', {
  group,
  needs: 'configure',
  does: 'What a change of a class would do to the tags of its equipment. Nothing is saved.',
  body: classTrial,
  example: { class: exampleClass, id: 1 },
  answer: tagsPlan,
})

export const removeClass = operation('DELETE /equipment-classes/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a class that no equipment has and no other class is made from.',
  answer: removed,
  faults: ['equipment.class-in-use'],
})

export const listEquipment = operation('GET /equipment', {
  group,
  needs: 'look',
  does: 'All equipment.',
  query: listQuery(['path', 'id', 'revision'], listWhole),
  answer: pageOf(savedEquipment),
})

export const makeEquipment = operation('POST /equipment', {
  group,
  needs: 'configure',
  does: 'Makes a piece of equipment, with a tag for each of its properties.',
  body: equipmentContract,
  example: exampleEquipment,
  answer: savedEquipment,
  faults: ['entry.taken'],
})

export const showEquipment = operation('GET /equipment/{id}', {
  group,
  needs: 'look',
  does: 'A piece of equipment with its properties, inherited ones too, and the tags that they are.',
  answer: shownEquipment,
})

export const changeEquipment = operation('PUT /equipment/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a piece of equipment, unless somebody else did since. Whatever is part of it goes with it, and so do its tags.',
  body: equipmentChange,
  example: { revision: 9, equipment: exampleEquipment },
  answer: savedEquipment,
  faults: ['entry.taken', 'entry.edited'],
})

export const removeEquipment = operation('DELETE /equipment/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a piece of equipment with all that is part of it, and their tags. What was recorded of them stays.',
  answer: removed,
})

export const showPast = operation('GET /equipment/{id}/past', {
  group,
  needs: 'look',
  does: 'What was recorded of tags before a piece of equipment, or what is part of it, had them as inputs, and what formulas and children together would have been over that. Of properties that are recorded.',
  answer: offeredPast,
  faults: ['history.slow'],
})

export const takePast = operation('POST /equipment/{id}/past', {
  group,
  needs: 'configure',
  does: 'Takes the next part of that past along, the latest first: into the inputs, converted as they convert, and then into what is worked out over them; rollups are made again. Asked again until nothing is left.',
  answer: z.object({ samples: z.int().describe('That were taken along.'), left: z.int().describe('About as many are left.') }),
  faults: ['history.slow'],
})

export const proposeBindings = operation('POST /equipment/proposals', {
  group,
  needs: 'look',
  does: 'Tags that are likely the inputs of equipment of a class, by name, type and unit.',
  body: bindingTrial,
  example: { class: 'Feeder', folder: 'berth/2' },
  answer: z.array(proposedBinding),
})

const exampleFolders = { kind: 'folders' as const, class: 'Feeder', pattern: 'berth/*/shore', to: 'Harrow Sound/Berth {1}/Feeder' }

export const planBulk = operation('POST /equipment/bulk/plan', {
  group,
  needs: 'configure',
  does: 'What becomes of a table of equipment, or of folders of tags that go by a pattern: what is made, changed and refused. Nothing is saved.',
  body: bulkAsked,
  size: 'many',
  example: { from: exampleFolders },
  answer: bulkPlanShown,
  faults: ['equipment.table'],
})

export const makeBulk = operation('POST /equipment/bulk', {
  group,
  needs: 'configure',
  does: 'Makes and changes all of that at once, as in the plan that somebody saw; what is refused there is left out. Another plan by now changes nothing.',
  body: bulkSure,
  size: 'many',
  example: { from: exampleFolders, digest: 'of-the-plan' },
  answer: bulkDone,
  faults: ['equipment.table', 'equipment.plan-changed'],
})

export const equipmentCsv = operation('GET /equipment/table.csv', {
  group,
  needs: 'look',
  does: 'All equipment as a table (CSV, RFC 4180) that can be read back.',
  answer: z.string(),
  as: 'csv',
})

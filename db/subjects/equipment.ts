import type { Generated, JSONColumnType } from 'kysely'
import { equipmentContract, type EquipmentDraft } from '#core/equipment/settings'
import { subject } from './definition'

export interface EquipmentTable {
  id: Generated<number>
  path: string
  class: string
  level: EquipmentDraft['level']
  relations: JSONColumnType<EquipmentDraft['relations']>
  constants: JSONColumnType<EquipmentDraft['constants']>
  bindings: JSONColumnType<EquipmentDraft['bindings']>
  description: string
  revision: number
}

export const equipment = subject<EquipmentTable>()({
  contract: equipmentContract,
  nameOf: ({ path }) => path,
  text: { section: 'equipment', key: 'path' },
  needs: ['equipmentClass'],
})

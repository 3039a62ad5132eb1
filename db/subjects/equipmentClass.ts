import type { Generated, JSONColumnType } from 'kysely'
import { classContract, type ClassDraft } from '#core/equipment/settings'
import { byName, subject } from './definition'

export interface EquipmentClassTable {
  id: Generated<number>
  name: string
  parent: string
  level: ClassDraft['level']
  description: string
  properties: JSONColumnType<ClassDraft['properties']>
  revision: number
}

export const equipmentClass = subject<EquipmentClassTable>()({
  contract: classContract,
  nameOf: byName,
  text: { section: 'classes', key: 'name' },
  needs: [],
})

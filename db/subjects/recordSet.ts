import type { Generated, JSONColumnType } from 'kysely'
import { recordSetContract, type RecordSetDraft } from '#core/records/settings'
import { byName, subject } from './definition'

export interface RecordSetTable {
  id: Generated<number>
  name: string
  linkId: number
  on: boolean
  folder: string
  nulls: string | null
  how: JSONColumnType<RecordSetDraft['how']>
  revision: number
}

export const recordSet = subject<RecordSetTable>()({
  contract: recordSetContract,
  nameOf: byName,
  text: { section: 'recordSets', key: 'name' },
  needs: ['link'],
})

import type { Generated, JSONColumnType } from 'kysely'
import { displayContract, type DisplayDraft } from '#core/displays/settings'
import { byName, subject } from './definition'

export interface DisplayTable {
  id: Generated<number>
  name: string
  class: string
  description: string
  panes: JSONColumnType<DisplayDraft['panes']>
  revision: number
}

export const display = subject<DisplayTable>()({
  contract: displayContract,
  nameOf: byName,
  text: { section: 'displays', key: 'name' },
  needs: [],
})

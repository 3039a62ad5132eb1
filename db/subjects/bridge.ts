import type { Generated, JSONColumnType } from 'kysely'
import { bridgeContract, type BridgeDraft } from '#core/bridges/settings'
import { byName, subject } from './definition'

export interface BridgeTable {
  id: Generated<number>
  name: string
  on: boolean
  when: JSONColumnType<BridgeDraft['when']>
  gather: JSONColumnType<BridgeDraft['gather'] & object> | null
  take: JSONColumnType<BridgeDraft['take']>
  lookUps: JSONColumnType<BridgeDraft['lookUps']>
  send: JSONColumnType<BridgeDraft['send']>
  nodeId: number | null
  revision: number
}

export const bridge = subject<BridgeTable>()({
  contract: bridgeContract,
  nameOf: byName,
  text: { section: 'bridges', key: 'name' },
  needs: ['node', 'link', 'outlet'],
  broughtUp: (stored) => ({ nodeId: null, ...stored }),
})

import type { Generated, JSONColumnType } from 'kysely'
import { nodeContract, type NodeDoor } from '#shared/nodes'
import { byName, subject } from './definition'

export interface NodeTable {
  id: Generated<number>
  name: string
  note: string
  key: string | null
  standsBy: Generated<boolean>
  door: JSONColumnType<NodeDoor> | null
  revision: number
}

export const node = subject<NodeTable>()({
  contract: nodeContract,
  nameOf: byName,
  text: { section: 'nodes', key: 'name' },
  needs: [],
})

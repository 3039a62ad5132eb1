import type { Generated } from 'kysely'
import { nodeContract } from '#shared/nodes'
import { byName, subject } from './definition'

export interface NodeTable {
  id: Generated<number>
  name: string
  note: string
  key: string | null
  revision: number
}

export const node = subject<NodeTable>()({
  contract: nodeContract,
  nameOf: byName,
  text: { section: 'nodes', key: 'name' },
  needs: [],
})

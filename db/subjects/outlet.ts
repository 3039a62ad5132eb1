import type { Generated, JSONColumnType } from 'kysely'
import type { OutletKind } from '#core/outlets/registry'
import { outletContract } from '#shared/outlets/outlet'
import { byName, isRecord, subject, withVisible, type Stored } from './definition'

export interface OutletTable {
  id: Generated<number>
  name: string
  kind: OutletKind
  on: boolean
  settings: JSONColumnType<Record<string, unknown>>
  nodeId: number | null
  revision: number
}

export const outlet = subject<OutletTable>()({
  contract: outletContract,
  nameOf: byName,
  text: { section: 'outlets', key: 'name' },
  needs: ['node', 'link'],
  broughtUp: (stored) => ({ nodeId: null, ...withVisible(stored, 'name'), settings: withRights(withDoors(stored.settings)) }),
})

/** As migration 004: one port on loopback became doors. */
const withDoors = (settings: unknown): unknown => {
  if (!isRecord(settings) || !('port' in settings)) return settings
  const { port, anonymousMayWrite = true } = settings
  const ways = { giveOut: '', policies: ['None'], modes: ['SignAndEncrypt'], anonymous: true, names: false }
  return { anonymousMayWrite, users: [], doors: [{ on: true, interface: '127.0.0.1', port, ...ways }] }
}

/** As migration 005: one mark for who may write became rights by folder. */
const withRights = (settings: unknown): unknown => {
  if (!isRecord(settings) || !('anonymousMayWrite' in settings)) return settings
  const { anonymousMayWrite, users, doors, ...rest } = settings
  return {
    ...rest,
    doors: listOf(doors).map((door) => ({ ...door, certificates: false })),
    shows: [{ folder: '', may: 'write' }],
    anonymous: wholeSite(anonymousMayWrite),
    users: listOf(users).map(({ name, password, mayWrite }) => ({
      name,
      key: { kind: 'password', password },
      rules: wholeSite(mayWrite),
    })),
  }
}

const listOf = (value: unknown): Stored[] => (Array.isArray(value) ? value.filter(isRecord) : [])
const wholeSite = (mayWrite: unknown) => [{ folder: '', may: mayWrite === true ? 'write' : 'read' }]

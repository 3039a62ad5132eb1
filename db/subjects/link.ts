import type { Generated, JSONColumnType } from 'kysely'
import type { LinkKind } from '#core/links/registry'
import type { OddValues } from '#core/tags/odd'
import { linkContract } from '#shared/links/link'
import { byName, isRecord, subject, withVisible } from './definition'

export interface LinkTable {
  id: Generated<number>
  name: string
  kind: LinkKind
  on: boolean
  settings: JSONColumnType<Record<string, unknown>>
  odd: JSONColumnType<OddValues & object> | null
  nodeId: number | null
  revision: number
}

export const link = subject<LinkTable>()({
  contract: linkContract,
  nameOf: byName,
  text: { section: 'links', key: 'name' },
  needs: ['node'],
  broughtUp: (stored) => ({ odd: null, nodeId: null, ...withVisible(stored, 'name'), settings: withClearPassword(stored.settings) }),
})

/** Links of before may go on as they did; who makes one now decides whether its password may travel in clear. */
const withClearPassword = (settings: unknown): unknown => {
  if (!isRecord(settings) || !isRecord(settings.identity)) return settings
  return settings.identity.kind === 'password' ? { ...settings, identity: { inClear: true, ...settings.identity } } : settings
}

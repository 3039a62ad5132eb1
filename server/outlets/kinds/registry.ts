import type { OutletKind } from '#core/outlets/registry'
import type { OutletDraft } from '#shared/outlets/outlet'
import type { OutletSaving } from './kind'
import { opcuaServerSaving } from './opcuaServer'

/** How every kind of outlet is saved. A new one adds its line here. */
const savings: Record<OutletKind, OutletSaving<OutletDraft['settings']>> = { 'opcua-server': opcuaServerSaving }

export const outletSavingOf = (kind: OutletKind): OutletSaving<OutletDraft['settings']> => savings[kind]

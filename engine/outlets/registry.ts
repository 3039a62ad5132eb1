import type { OutletKind } from '#core/outlets/registry'
import type { OutletDraft } from '#shared/outlets/outlet'
import type { OutletDriver } from './driver'
import { opcuaServerDriver } from './opcua/driver'

/** The driver of every outlet kind. A new one adds its line here. */
const drivers: Record<OutletKind, OutletDriver<OutletDraft['settings']>> = { 'opcua-server': opcuaServerDriver }

export const outletDriverOf = (kind: OutletKind): OutletDriver<OutletDraft['settings']> => drivers[kind]

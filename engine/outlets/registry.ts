import type { OutletKind } from '#core/outlets/registry'
import type { OutletDraft, OutletSettingsOf } from '#shared/outlets/outlet'
import type { OutletDriver } from './driver'
import { cloudPlatformDriver } from './cloud/driver'
import { httpServerDriver } from './http/driver'
import { modbusServerDriver } from './modbus/driver'
import { mqttBrokerDriver } from './mqtt/driver'
import { opcuaServerDriver } from './opcua/driver'

/** The driver of every outlet kind. A new one adds its line here. */
const drivers: { [K in OutletKind]: OutletDriver<OutletSettingsOf<K>> } = {
  'opcua-server': opcuaServerDriver,
  'mqtt-broker': mqttBrokerDriver,
  'http-server': httpServerDriver,
  'modbus-server': modbusServerDriver,
  'cloud-platform': cloudPlatformDriver,
}

/** Kind and settings go together; TypeScript cannot follow that through a variable. */
export const outletDriverOf = (kind: OutletKind) => drivers[kind] as unknown as OutletDriver<OutletDraft['settings']>

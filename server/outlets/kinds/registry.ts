import type { OutletKind } from '#core/outlets/registry'
import type { OutletDraft, OutletSettingsOf } from '#shared/outlets/outlet'
import type { OutletSaving } from './kind'
import { cloudPlatformSaving } from './cloudPlatform'
import { httpServerSaving } from './httpServer'
import { modbusServerSaving } from './modbusServer'
import { mqttBrokerSaving } from './mqttBroker'
import { opcuaServerSaving } from './opcuaServer'

/** How every kind of outlet is saved. A new one adds its line here. */
const savings: { [K in OutletKind]: OutletSaving<OutletSettingsOf<K>> } = {
  'opcua-server': opcuaServerSaving,
  'mqtt-broker': mqttBrokerSaving,
  'http-server': httpServerSaving,
  'modbus-server': modbusServerSaving,
  'cloud-platform': cloudPlatformSaving,
}

/** Kind and settings go together; TypeScript cannot follow that through a variable. */
export const outletSavingOf = (kind: OutletKind) => savings[kind] as unknown as OutletSaving<OutletDraft['settings']>

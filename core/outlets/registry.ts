import { cloudPlatform } from './cloudPlatform'
import { httpServer } from './httpServer'
import type { OutletFacts } from './kind'
import { modbusServer } from './modbusServer'
import { mqttBroker } from './mqttBroker'
import { opcuaServer } from './opcuaServer'

/** Every kind of outlet. A new one adds its line here. */
export const outletFacts = {
  'opcua-server': opcuaServer,
  'mqtt-broker': mqttBroker,
  'http-server': httpServer,
  'modbus-server': modbusServer,
  'cloud-platform': cloudPlatform,
} as const satisfies Record<string, OutletFacts>

export type OutletKind = keyof typeof outletFacts
export const outletKinds = Object.keys(outletFacts) as [OutletKind, ...OutletKind[]]
export const outletFactsOf = (kind: OutletKind): OutletFacts => outletFacts[kind]

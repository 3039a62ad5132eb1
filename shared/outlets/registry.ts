import type { z } from 'zod'
import type { OutletKind } from '#core/outlets/registry'
import { cloudPlatformSettings } from './cloudPlatform'
import { httpServerSettings } from './httpServer'
import { modbusServerSettings } from './modbusServer'
import { mqttBrokerSettings } from './mqttBroker'
import { opcuaServerSettings } from './opcuaServer'

/** The settings of every kind of outlet. A new one adds its line here. */
export const outletContracts = {
  'opcua-server': opcuaServerSettings,
  'mqtt-broker': mqttBrokerSettings,
  'http-server': httpServerSettings,
  'modbus-server': modbusServerSettings,
  'cloud-platform': cloudPlatformSettings,
} as const satisfies Record<OutletKind, z.ZodType>

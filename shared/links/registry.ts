import type { z } from 'zod'
import type { LinkKind } from '#core/links/registry'
import { bacnetPoint, bacnetSettings } from '#core/bacnet/settings'
import { httpPoint, httpSettings } from '#core/http/settings'
import { filesPoint, filesSettings } from '#core/files/settings'
import { ioLinkPoint, ioLinkSettings } from '#core/iolink/settings'
import { isoTcpPoint, isoTcpSettings } from '#core/isotcp/settings'
import { modbusLineSettings } from '#core/modbus/lineSettings'
import { modbusTcpPoint, modbusTcpSettings } from '#core/modbus/settings'
import { mqttPoint, mqttSettings } from '#core/mqtt/settings'
import { opcuaPoint, opcuaSettings } from '#core/opcua/settings'
import { sqlPoint, sqlSettings } from '#core/sql/settings'

/** The contracts of every link kind: its settings, and the options of its points. A new protocol adds its line here. */
export const linkContracts = {
  'modbus-tcp': { settings: modbusTcpSettings, point: modbusTcpPoint },
  'modbus-line': { settings: modbusLineSettings, point: modbusTcpPoint },
  'iso-tcp': { settings: isoTcpSettings, point: isoTcpPoint },
  'bacnet-ip': { settings: bacnetSettings, point: bacnetPoint },
  iolink: { settings: ioLinkSettings, point: ioLinkPoint },
  opcua: { settings: opcuaSettings, point: opcuaPoint },
  mqtt: { settings: mqttSettings, point: mqttPoint },
  http: { settings: httpSettings, point: httpPoint },
  sql: { settings: sqlSettings, point: sqlPoint },
  files: { settings: filesSettings, point: filesPoint },
} as const satisfies Record<LinkKind, { settings: z.ZodType; point: z.ZodType }>

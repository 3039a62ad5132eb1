import type { LinkKind } from '#core/links/registry'
import type { LinkSettings } from '#shared/links/link'
import type { LinkDriver } from './driver'
import { bacnetDriver } from './bacnet/driver'
import { filesDriver } from './files/driver'
import { httpDriver } from './http/driver'
import { ioLinkDriver } from './iolink/driver'
import { isoTcpDriver } from './isotcp/driver'
import { modbusLineDriver, modbusTcpDriver } from './modbus/driver'
import { mqttDriver } from './mqtt/driver'
import { opcuaDriver } from './opcua/driver'
import { sqlDriver } from './sql/driver'

/** The driver of every link kind. A new protocol adds its line here. */
const drivers: Record<LinkKind, LinkDriver<LinkSettings>> = {
  'modbus-tcp': modbusTcpDriver,
  'modbus-line': modbusLineDriver,
  'iso-tcp': isoTcpDriver,
  'bacnet-ip': bacnetDriver,
  iolink: ioLinkDriver,
  opcua: opcuaDriver,
  mqtt: mqttDriver,
  http: httpDriver,
  sql: sqlDriver,
  files: filesDriver,
}

export const driverOf = (kind: LinkKind): LinkDriver<LinkSettings> => drivers[kind]

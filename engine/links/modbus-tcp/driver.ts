import type { ModbusTcpSettings } from '#core/modbus/settings'
import type { LinkDriver } from '../driver'
import { checkModbusTcp } from './check'
import { ModbusTcpSession } from './session'
import { tryReadModbusTcp } from './tryRead'

export const modbusTcpDriver: LinkDriver<ModbusTcpSettings> = {
  open: (context) => new ModbusTcpSession(context),
  check: checkModbusTcp,
  tryRead: tryReadModbusTcp,
}

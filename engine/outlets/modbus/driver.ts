import type { ModbusServerSettings } from '#shared/outlets/modbusServer'
import type { OutletDriver } from '../driver'
import { ModbusServerSession } from './session'

export const modbusServerDriver: OutletDriver<ModbusServerSettings> = {
  open: (context) => new ModbusServerSession(context),
}

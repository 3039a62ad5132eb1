import type { ModbusServerSettings } from '#shared/outlets/modbusServer'
import type { OutletSaving } from './kind'
import { portsTaken } from './ports'

export const modbusServerSaving: OutletSaving<ModbusServerSettings> = {
  problems: ({ doors }, others) => portsTaken(doors, others),
  stored: async (settings) => settings,
}

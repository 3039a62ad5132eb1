import { asModbus, type ModbusLineSettings } from '#core/modbus/lineSettings'
import type { ModbusSettings, ModbusTcpSettings } from '#core/modbus/settings'
import type { LinkDriver } from '../driver'
import { checkModbus } from './check'
import { ModbusSession } from './session'
import { tryReadModbus } from './tryRead'

const driverFor = <S>(asSettings: (settings: S) => ModbusSettings): LinkDriver<S> => ({
  open: (context) => new ModbusSession(context, asSettings),
  check: (settings, signal, around) => checkModbus(asSettings(settings), signal, around),
  tryRead: (settings, point, wire) => tryReadModbus(asSettings(settings), point, wire),
})

export const modbusTcpDriver: LinkDriver<ModbusTcpSettings> = driverFor((settings) => settings)
export const modbusLineDriver: LinkDriver<ModbusLineSettings> = driverFor(asModbus)

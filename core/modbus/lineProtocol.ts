import { lineFrames } from './lineFrames'
import { serialText } from '../contracts/serial'
import type { FieldProblem, PointDefinition, Protocol } from '../links/protocol'
import { parseAddress } from './address'
import { modbusLoad } from './load'
import { asModbus, type ModbusLineSettings } from './lineSettings'
import { modbusTcp } from './protocol'
import { modbusReference } from './reference'

const as = (settings: unknown) => asModbus(settings as ModbusLineSettings)

/** Nobody answers for everybody. */
const broadcastProblem = (point: PointDefinition, settings: unknown): FieldProblem[] => {
  const parsed = parseAddress(point.address)
  const isForAll = parsed.ok && (parsed.address.unit ?? (settings as ModbusLineSettings).unit) === 0
  if (!isForAll || point.access === 'readwrite') return []
  return [{ field: 'access', message: 'Unit 0 is all units, which obey and do not answer: such a tag can only be written.' }]
}

const placeText = ({ line }: ModbusLineSettings) =>
  line.over === 'port' ? `${line.device}, ${serialText(line)}` : `${line.host}:${line.port}`

/** Points, types and planning are those of Modbus; what differs is the line. */
export const modbusLine: Protocol = {
  ...modbusTcp,
  kind: 'modbus-line',
  title: 'Modbus serial line',
  subtitle: 'RTU or ASCII: at a serial port, or behind a converter that passes bytes on',
  frames: lineFrames,
  place: (settings) => placeText(settings as ModbusLineSettings),
  goal: (settings) => {
    const { line, framing } = settings as ModbusLineSettings
    if (line.over === 'port') return null
    return { speaks: `Modbus ${framing.toUpperCase()} over TCP`, host: line.host, port: line.port, carries: 'tcp', usualPort: null }
  },
  describe: (text, settings) => modbusTcp.describe(text, as(settings)),
  problems: (point, settings) => [...modbusTcp.problems(point, as(settings)), ...broadcastProblem(point, settings)],
  spot: (point, settings) => modbusTcp.spot(point, as(settings)),
  load: (points, settings, experience) => modbusLoad(points, as(settings), experience),
  reference: (settings) => modbusReference(as(settings)),
}

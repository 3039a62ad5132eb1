import { z } from 'zod'
import { charactersMs, serialFields } from '../contracts/serial'
import { hostField, milliseconds, portField } from '../contracts/fields'
import { modbusFields, type ModbusSettings } from './settings'

const line = z.discriminatedUnion('over', [
  z.object({ over: z.literal('port'), ...serialFields }),
  z.object({
    over: z.literal('tcp'),
    host: hostField.describe('The converter: its name or numeric address.'),
    port: portField.default(4001),
  }),
])

/** What a link over a serial line is set to: the port itself, or a converter that passes the bytes of a line on over TCP. */
export const modbusLineSettings = z.object({
  line: line.describe('A serial port of this machine, or a converter that passes bytes on.'),
  framing: z.enum(['rtu', 'ascii']).default('rtu'),
  ...modbusFields,
  requests: modbusFields.requests.unwrap().omit({ inFlight: true, connections: true }).prefault({}),
  settle: milliseconds('The time to listen on', 0, 10_000)
    .default(300)
    .describe('After a request without an answer the line is listened to for so long, ms: a reply that is late belongs to nobody else.'),
  broadcast: milliseconds('The pause after a broadcast', 0, 10_000)
    .default(150)
    .describe('What is written to unit 0 goes to all, and nobody answers: so long they have to do it, ms.'),
})

export type ModbusLineSettings = z.output<typeof modbusLineSettings>

/** On a line frames lie apart by the time of three and a half characters (MODBUS over Serial Line V1.02, 2.5.1.1). */
export const gapMs = (settings: ModbusLineSettings): number => {
  const { line: way, framing } = settings
  if (way.over === 'tcp' || framing === 'ascii') return 0
  return Math.ceil(way.baud > 19_200 ? 1.75 : charactersMs(3.5, way))
}

/** The same settings as every link of this protocol has them. */
export const asModbus = (settings: ModbusLineSettings): ModbusSettings => {
  const { line: way, framing, settle, broadcast, requests, ...rest } = settings
  const isPort = way.over === 'port'
  return {
    ...rest,
    ...{ host: isPort ? way.device : way.host, port: isPort ? 0 : way.port },
    requests: { ...requests, pause: Math.max(requests.pause, gapMs(settings)), inFlight: 1, connections: 1 },
    way: { framing, serial: isPort ? way : null, settle, broadcast },
  }
}

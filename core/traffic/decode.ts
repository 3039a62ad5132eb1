import { bacnetDecoder } from './decoders/bacnet'
import { databaseDecoder } from './decoders/databases'
import { httpDecoder } from './decoders/http'
import { isoTcpDecoder } from './decoders/isotcp'
import { modbusLineDecoder, modbusTcpDecoder } from './decoders/modbus'
import { mqttDecoder } from './decoders/mqtt'
import { opcuaDecoder } from './decoders/opcua'
import type { FrameDecoder } from './told'

/** What reads the frames of a kind of link or outlet. A new one is an entry here. */
const decoders: Partial<Record<string, FrameDecoder>> = {
  'modbus-tcp': modbusTcpDecoder,
  'modbus-line': modbusLineDecoder,
  'iso-tcp': isoTcpDecoder,
  'bacnet-ip': bacnetDecoder,
  iolink: httpDecoder,
  opcua: opcuaDecoder,
  http: httpDecoder,
  sql: databaseDecoder,
  'opcua-server': opcuaDecoder,
  'http-server': httpDecoder,
  'cloud-platform': httpDecoder,
  'modbus-server': modbusTcpDecoder,
  mqtt: mqttDecoder,
  'mqtt-broker': mqttDecoder,
}

/** @returns null: nothing here reads its frames yet */
export const decoderFor = (kind: string): FrameDecoder | null => decoders[kind] ?? null

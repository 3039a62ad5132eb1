import { modbusLineDecoder, modbusTcpDecoder } from './decoders/modbus'
import { mqttDecoder } from './decoders/mqtt'
import type { FrameDecoder } from './told'

/** What reads the frames of a kind of link or outlet. A new one is an entry here. */
const decoders: Partial<Record<string, FrameDecoder>> = {
  'modbus-tcp': modbusTcpDecoder,
  'modbus-line': modbusLineDecoder,
  'modbus-server': modbusTcpDecoder,
  mqtt: mqttDecoder,
  'mqtt-broker': mqttDecoder,
}

/** @returns null: nothing here reads its frames yet */
export const decoderFor = (kind: string): FrameDecoder | null => decoders[kind] ?? null

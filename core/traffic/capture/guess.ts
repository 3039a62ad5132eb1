import { bacnetFrames, mbapFrames, mqttFrames, tpktFrames, uaFrames, type FrameRule } from '../../wire/frames'

/** Kinds of links that frames of a file can be read as, and how their frames are told apart. */
export const readableKinds: Record<string, FrameRule | null> = {
  ...{ 'modbus-tcp': mbapFrames, opcua: uaFrames, mqtt: mqttFrames, 'iso-tcp': tpktFrames, 'bacnet-ip': bacnetFrames },
  ...{ http: null, sql: null },
}

const ports: Record<number, string> = {
  ...{ 502: 'modbus-tcp', 4840: 'opcua', 102: 'iso-tcp', 1883: 'mqtt', 47_808: 'bacnet-ip', 80: 'http', 8080: 'http' },
  ...{ 5432: 'sql', 3306: 'sql' },
}

const latin = new TextDecoder('latin1')
const starts = /^(HEL|ACK|ERR|OPN|MSG|CLO)[FCA]/
const webStarts = /^(GET|HEAD|POST|PUT|DELETE|OPTIONS|PATCH) \S+ HTTP\/1|^HTTP\/1\.[01] \d{3}/

/** By what is said first, where that is beyond doubt. */
const spoken = (bytes: Uint8Array): string | null => {
  const text = latin.decode(bytes.subarray(0, 64))
  if (starts.test(text)) return 'opcua'
  if (webStarts.test(text)) return 'http'
  if (bytes[0] === 0x10 && /^..?.?.?.?\0\x04MQTT|MQIsdp/s.test(text)) return 'mqtt'
  if (bytes[0] === 3 && tpktFrames.lengthOf(bytes, true) === bytes.length) return 'iso-tcp'
  if (bytes[0] === 0x81 && bacnetFrames.lengthOf(bytes, true) === bytes.length) return 'bacnet-ip'
  return null
}

/** What a connection seems to speak: by its first bytes, by its port, or by a length that fits. Empty: nothing that is known. */
export const kindOf = (bytes: Uint8Array, serverPort: number): string => {
  const known = spoken(bytes) ?? ports[serverPort]
  if (known) return known
  return bytes.length >= 8 && mbapFrames.lengthOf(bytes, true) === bytes.length ? 'modbus-tcp' : ''
}
/** The port of the side that answers: one that is known, else the lower one. */
export const isServerPort = (port: number, other: number): boolean =>
  ports[port] ? !ports[other] || port < other : !ports[other] && port < other

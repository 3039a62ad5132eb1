import { crc16 } from '../modbus/rtu'

/** What a server seems to be, by what it says first or answers to a greeting. */
export interface Service {
  id:
    | 'tls'
    | 'http'
    | 'ssh'
    | 'modbus-tcp'
    | 'modbus-rtu'
    | 'opcua'
    | 'mqtt'
    | 'iso-tcp'
    | 'postgresql'
    | 'mysql'
    | 'file-transfer'
    | 'terminal'
    | 'bacnet-ip'
  /** As it stands in a sentence: “what answers there is …”. */
  title: string
}

type Fits = (bytes: Uint8Array, text: string) => boolean
const known: [Service['id'], string, Fits][] = [
  // a record of alert or handshake, and the version (RFC 8446, 5.1)
  ['tls', 'a TLS service', ([type, major, minor]) => (type === 0x15 || type === 0x16) && major === 0x03 && minor! <= 4],
  ['http', 'a web server (HTTP)', (_, text) => text.startsWith('HTTP/') || /^<!doctype|^<html/i.test(text)],
  ['ssh', 'a secure shell (SSH)', (_, text) => text.startsWith('SSH-')],
  ['opcua', 'an OPC UA server', (_, text) => /^(ACK|ERR|MSG|OPN|RHE)[FCA]/.test(text)],
  // version 3, nothing, a length, and a TPDU whose own length fits in it (RFC 1006, 6; ISO 8073, 13.2)
  [
    'iso-tcp',
    'an ISO-on-TCP service',
    (b) => b[0] === 3 && b[1] === 0 && b.length >= 7 && ((b[2]! << 8) | b[3]!) >= 7 && b[4]! + 5 <= ((b[2]! << 8) | b[3]!),
  ],
  // protocol id 0, a length that fits, a function of the standard or its exception (MODBUS Messaging on TCP/IP V1.0b, 3.1.3)
  [
    'modbus-tcp',
    'a Modbus TCP server',
    (b) =>
      b.length >= 9 &&
      b[2] === 0 &&
      b[3] === 0 &&
      b[4] === 0 &&
      b[5]! === Math.min(b.length - 6, 254) &&
      (b[7]! & 0x7f) <= 43 &&
      b[7] !== 0,
  ],
  ['modbus-rtu', 'Modbus RTU frames on a bare connection', (b) => isRtu(b)],
  // length in three bytes, number 0, protocol version 10, or an error packet (MySQL client/server protocol)
  [
    'mysql',
    'a MySQL or MariaDB server',
    (b) => b.length >= 6 && b[3] === 0 && (b[4] === 0x0a || b[4] === 0xff) && (b[0]! | (b[1]! << 8) | (b[2]! << 16)) >= 4 && b[2] === 0,
  ],
  // an error, a question for a password (message type and length), or the answer to the question for TLS (PostgreSQL 53.2, 53.7)
  ['postgresql', 'a PostgreSQL server', (b, text) => /^[ER]\0\0/.test(text) || (b.length === 1 && (text === 'S' || text === 'N'))],
  // CONNACK with a length that fits, flags 0 or 1 (MQTT 5.0, 3.2; 3.1.1, 3.2)
  ['mqtt', 'an MQTT broker', (b) => b[0] === 0x20 && b.length >= 4 && b[1] === b.length - 2 && b[2]! <= 1],
  ['file-transfer', 'a mail or file transfer service', (_, text) => /^220[ -]/.test(text)],
  // interpret as command (RFC 854)
  ['terminal', 'a terminal service (telnet)', (b) => b[0] === 0xff && b[1]! >= 0xfb && b[1]! <= 0xfe],
  ['bacnet-ip', 'a BACnet/IP device', (b) => b[0] === 0x81 && b[1]! <= 0x0c && b.length >= 4 && ((b[2]! << 8) | b[3]!) === b.length],
]

/** Null: nothing that is known here. */
export const serviceOf = (bytes: Uint8Array): Service | null => {
  const text = String.fromCharCode(...bytes.subarray(0, 16))
  const found = known.find(([, , fits]) => fits(bytes, text))
  return found ? { id: found[0], title: found[1] } : null
}

export const serviceNamed = (id: Service['id']): Service => ({ id, title: known.find(([one]) => one === id)![1] })

/** A unit, a function of the standard, and a check sum that is right (MODBUS over Serial Line V1.02, 2.5.1.2). */
const isRtu = (b: Uint8Array): boolean => {
  if (b.length < 5 || b.length > 256 || b[1] === 0 || (b[1]! & 0x7f) > 43) return false
  return crc16(b.subarray(0, -2)) === (b.at(-2)! | (b.at(-1)! << 8))
}

import { bacnet } from '../bacnet/protocol'
import { files } from '../files/protocol'
import { http } from '../http/protocol'
import { ioLink } from '../iolink/protocol'
import { isoTcp } from '../isotcp/protocol'
import { modbusLine } from '../modbus/lineProtocol'
import { modbusTcp } from '../modbus/protocol'
import { mqtt } from '../mqtt/protocol'
import { opcua } from '../opcua/protocol'
import { sql } from '../sql/protocol'
import type { Protocol } from './protocol'

/** Every protocol a link can speak. A new one adds its line here. */
export const protocols = {
  'modbus-tcp': modbusTcp,
  'modbus-line': modbusLine,
  'iso-tcp': isoTcp,
  'bacnet-ip': bacnet,
  iolink: ioLink,
  opcua,
  mqtt,
  http,
  sql,
  files,
} as const satisfies Record<string, Protocol>

export type LinkKind = keyof typeof protocols
export const linkKinds = Object.keys(protocols) as [LinkKind, ...LinkKind[]]
export const protocolOf = (kind: LinkKind): Protocol => protocols[kind]

/** What a part of the far side is called, over a link of this kind. */
export const partWord = (kind: LinkKind): string => protocolOf(kind).part ?? 'unit'

/** Whether tags read through links of this kind. */
export const hasPoints = (kind: LinkKind): boolean => protocols[kind].capabilities.read || protocols[kind].capabilities.watch

import { bacnetFaults } from './bacnet'
import { bridgeFaults } from './bridges'
import { certificateFaults } from './certificates'
import { checkFaults } from './checks'
import { cloudFaults } from './cloud'
import { displayFaults } from './displays'
import { endpointFaults } from './endpoints'
import { entryFaults } from './entries'
import type { Entry, Side } from './entry'
import { filesFaults } from './files'
import { httpFaults } from './http'
import { importFaults } from './imports'
import { ioLinkFaults } from './iolink'
import { isoTcpFaults } from './isotcp'
import { modbusFaults } from './modbus'
import { serialFaults } from './serial'
import { mqttFaults } from './mqtt'
import { networkFaults } from './network'
import { nodeFaults } from './nodes'
import { opcuaFaults } from './opcua'
import { ourFaults } from './ours'
import { pairingFaults } from './pairing'
import { pathFaults } from './paths'
import { equipmentFaults } from './equipment'
import { historyFaults } from './history'
import { recordsFaults } from './records'
import { sqlFaults } from './sql'
import { textFaults } from './texts'
import { upkeepFaults } from './upkeep'

export type { Side }

/**
 * Every fault that a person can meet, in one place: what failed, whose side it is on and what to
 * do. The evidence is filled in where it is known. Texts are sentences; the code is for support.
 */
export interface Fault {
  code: FaultCode
  what: string
  side: Side
  evidence: string
  next: string
}

const catalogue = {
  ...entryFaults,
  ...importFaults,
  ...textFaults,
  ...ourFaults,
  ...networkFaults,
  ...modbusFaults,
  ...serialFaults,
  ...isoTcpFaults,
  ...bacnetFaults,
  ...ioLinkFaults,
  ...opcuaFaults,
  ...pairingFaults,
  ...nodeFaults,
  ...upkeepFaults,
  ...checkFaults,
  ...httpFaults,
  ...mqttFaults,
  ...sqlFaults,
  ...equipmentFaults,
  ...historyFaults,
  ...displayFaults,
  ...recordsFaults,
  ...filesFaults,
  ...bridgeFaults,
  ...cloudFaults,
  ...endpointFaults,
  ...pathFaults,
  ...certificateFaults,
} as const

export type FaultCode = keyof typeof catalogue
export const faultCodes = Object.keys(catalogue) as FaultCode[]
type EvidenceOf<C extends FaultCode> = (typeof catalogue)[C] extends Entry<infer E> ? E : never

/** Makes a fault. `evidence` is what was seen: a system error, bytes, an answer in the far side's words. */
export const fault = <C extends FaultCode>(code: C, facts: EvidenceOf<C>, evidence = ''): Fault => {
  const found = catalogue[code] as unknown as Entry<EvidenceOf<C>>
  return { code, side: found.side, what: found.what(facts), next: found.next(facts), evidence }
}

/** Whether something that was thrown says what failed in the words of the catalogue. */
export const isFault = (thing: unknown): thing is Fault => typeof thing === 'object' && thing !== null && 'code' in thing && 'side' in thing

export const sideText: Record<Side, string> = {
  entry: 'in what was entered',
  here: 'on this machine',
  network: 'on the way there',
  device: 'on the device’s side',
  consumer: 'on the consumer’s side',
}

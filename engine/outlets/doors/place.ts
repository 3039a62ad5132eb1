import { hostname } from 'node:os'
import { fault, type Fault } from '#core/faults/catalogue'
import { isEverywhere, type DoorPlace } from '#shared/outlets/doors'

/** What clients are told to dial. */
export const hostOf = (door: DoorPlace) => door.giveOut || (isEverywhere(door.interface) ? hostname() : door.interface)

/** Why a door could not open. */
export const doorFault = ({ interface: host, port }: Pick<DoorPlace, 'interface' | 'port'>, error: Error & { code?: string }): Fault =>
  error.code === 'EADDRINUSE'
    ? fault('port.in-use', { host, port }, 'EADDRINUSE')
    : error.code === 'EADDRNOTAVAIL'
      ? fault('outlet.no-interface', { address: host }, 'EADDRNOTAVAIL')
      : error.code === 'EACCES'
        ? fault('outlet.no-right', { port }, 'EACCES')
        : fault('outlet.failed', { problem: error.message })

import { hostname } from 'node:os'
import { fault, type Fault } from '#core/faults/catalogue'
import { isEverywhere, type DoorPlace } from '#shared/outlets/doors'
import { isOwnAddress } from '../../wire/interfaces'

/** What clients are told to dial. */
export const hostOf = (door: DoorPlace) => door.giveOut || (isEverywhere(door.interface) ? hostname() : door.interface)

/** The system would say so, too, but only once it listens. */
export const requireInterface = ({ interface: address }: DoorPlace) => {
  if (isEverywhere(address)) return
  if (!isOwnAddress(address)) throw Object.assign(new Error(address), { code: 'EADDRNOTAVAIL' })
}

/** Why a door could not open. */
export const doorFault = ({ interface: host, port }: DoorPlace, error: Error & { code?: string }): Fault =>
  error.code === 'EADDRINUSE'
    ? fault('port.in-use', { host, port }, 'EADDRINUSE')
    : error.code === 'EADDRNOTAVAIL'
      ? fault('outlet.no-interface', { address: host }, 'EADDRNOTAVAIL')
      : error.code === 'EACCES'
        ? fault('outlet.no-right', { port }, 'EACCES')
        : fault('outlet.failed', { problem: error.message })

import type { BacnetSettings } from '#core/bacnet/settings'
import { broadcastOf } from '../../wire/interfaces'
import { BacnetPort, type PortUser } from './port'

interface Shared {
  port: Promise<BacnetPort>
  users: number
}

/** A UDP port of this machine can be opened once; links that want the same share it. */
const shared = new Map<string, Shared>()

export interface PortLease {
  port: BacnetPort
  /** Twice is once. */
  release(): void
}

type Place = Pick<BacnetSettings, 'localAddress' | 'port' | 'broadcast'>

/** Rejects with a Fault. */
export const leasePort = async (place: Place, user: PortUser): Promise<PortLease> => {
  const { localAddress, port } = place
  const key = port === 0 ? null : `${localAddress} ${port}`
  const held = (key && shared.get(key)) || { port: BacnetPort.open(localAddress, port, broadcastOf(place)), users: 0 }
  held.users++
  if (key) shared.set(key, held)
  const letGo = () => {
    if (--held.users > 0) return
    if (key && shared.get(key) === held) shared.delete(key)
    held.port.then(
      (opened) => opened.close(),
      () => {},
    )
  }
  try {
    const opened = await held.port
    opened.users.add(user)
    let isReleased = false
    const release = () => {
      if (isReleased) return
      isReleased = true
      opened.leave(user)
      letGo()
    }
    return { port: opened, release }
  } catch (why) {
    letGo()
    throw why
  }
}

import { promisify } from 'node:util'
import type { OPCUAServerEndPoint } from 'node-opcua'
import type { Fault } from '#core/faults/catalogue'
import { endpointUrl } from '#core/opcua/endpointAddress'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { Door } from '#shared/outlets/opcuaServer'
import { listenerOf } from '../../opcua/internals'
import type { Wire } from '../../wire/wire'
import type { Arrivals } from '../doors/arrivals'
import { DoorSet, type Opened } from '../doors/doorSet'
import { hostOf } from '../doors/place'
import type { Endpoints } from './endpoints'
import type { Quotas } from './quotas'

/** The doors of one server: each is an endpoint of its own. */
export class Doors {
  private doors: DoorSet<Door, Opened>

  constructor(
    private endpoints: Endpoints,
    private quotas: Pick<Quotas, 'guard'>,
    private wire: Wire,
    tell: { opened(address: string): void; failed(why: Fault): void },
  ) {
    this.doors = new DoorSet({ ...tell, addressOf, listen: (door, arrivals) => this.listen(door, arrivals) })
  }

  apply(wanted: readonly Door[]): Promise<void> {
    return this.doors.apply(wanted)
  }

  status(): DoorStatus[] {
    return this.doors.status()
  }

  at(index: number) {
    return this.doors.at(index)
  }

  close(): Promise<void> {
    return this.doors.close()
  }

  private async listen(door: Door, arrivals: Arrivals): Promise<Opened> {
    const endpoint = this.endpoints.make(placeOf(door), { host: door.interface, port: door.port }, door)
    await promisify(endpoint.start.bind(endpoint))()
    // before anything is said: a connection that stops at the first byte tells that no firewall swallows it
    const listener = listenerOf(endpoint)
    if (listener) this.quotas.guard(listener, () => endpoint.getChannels())
    if (listener) this.wire.attend(listener)
    listener?.on('connection', (socket) => arrivals.note(socket.remoteAddress))
    this.endpoints.add(endpoint)
    return { close: () => this.shut(endpoint) }
  }

  private async shut(endpoint: OPCUAServerEndPoint) {
    this.endpoints.remove(endpoint)
    endpoint.abruptlyInterruptChannels()
    await promisify(endpoint.shutdown.bind(endpoint))().catch(() => {})
  }
}

const placeOf = (door: Door) => ({ host: hostOf(door), port: door.port, path: '' })
export const addressOf = (door: Door) => endpointUrl(placeOf(door))

import {
  ClientTCP_transport,
  ReverseClientTCP_transport,
  type IClientTransportFactory,
  type TransportSettingsOptions,
} from 'node-opcua-transport'
import type { Wire } from '../wire/wire'
import { beforeFirstByte } from './internals'
import type { ServerCall } from './serverDoors'

/**
 * How the connections of a client come about; each is shown to the wire before a byte passes.
 *
 * @param made gets the number of each connection
 */
export type Transports = (wire: Wire, made?: (connection: number) => void) => IClientTransportFactory

/** We dial: the package makes its own sockets. */
export const transportsOver: Transports = (wire, made = () => {}) => ({
  create: (settings?: TransportSettingsOptions) => {
    const transport = new ClientTCP_transport(settings)
    beforeFirstByte(transport, (socket, endpoint) => {
      made(wire.tap.watch(socket, URL.canParse(endpoint) ? new URL(endpoint).host : endpoint))
    })
    return transport
  },
})

/** The server dials: each connection is one that it opened. */
export const transportsFrom =
  (next: () => Promise<ServerCall>): Transports =>
  (wire, made = () => {}) => ({
    create: (settings?: TransportSettingsOptions) =>
      new ReverseClientTCP_transport(async () => {
        const call = await next()
        made(wire.tap.watch(call.socket, call.from))
        return call
      }, settings),
  })

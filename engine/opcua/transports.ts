import { ClientTCP_transport, type IClientTransportFactory, type TransportSettingsOptions } from 'node-opcua-transport'
import type { Wire } from '../wire/wire'
import { beforeFirstByte } from './internals'

/**
 * The package makes its own sockets; each is shown to the wire before a byte passes.
 *
 * @param made gets the number of each connection
 */
export const transportsOver = (wire: Wire, made: (connection: number) => void = () => {}): IClientTransportFactory => ({
  create: (settings?: TransportSettingsOptions) => {
    const transport = new ClientTCP_transport(settings)
    beforeFirstByte(transport, (socket, endpoint) => {
      made(wire.tap.watch(socket, URL.canParse(endpoint) ? new URL(endpoint).host : endpoint))
    })
    return transport
  },
})

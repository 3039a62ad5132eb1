import { ClientTCP_transport, type IClientTransportFactory, type TransportSettingsOptions } from 'node-opcua-transport'
import type { Wire } from '../wire/wire'
import { beforeFirstByte } from './internals'

/** The package makes its own sockets; each is shown to the wire before a byte passes. */
export const transportsOver = (wire: Wire): IClientTransportFactory => ({
  create: (settings?: TransportSettingsOptions) => {
    const transport = new ClientTCP_transport(settings)
    beforeFirstByte(transport, (socket, endpoint) => wire.tap.watch(socket, URL.canParse(endpoint) ? new URL(endpoint).host : endpoint))
    return transport
  },
})

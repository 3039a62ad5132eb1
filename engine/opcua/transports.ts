import type { Socket } from 'node:net'
import { ClientTCP_transport, type IClientTransportFactory, type TransportSettingsOptions } from 'node-opcua-transport'
import type { Wire } from '../wire/wire'

/** What the package keeps for itself: the moment at which a connection gets its socket. */
interface Installs {
  endpointUrl: string
  _install_socket(socket: Socket): void
}

/** The package makes its own sockets; each is shown to the wire before a byte passes. */
export const transportsOver = (wire: Wire): IClientTransportFactory => ({
  create: (settings?: TransportSettingsOptions) => {
    const transport = new ClientTCP_transport(settings)
    const installs = transport as unknown as Installs
    const install = installs._install_socket.bind(transport)
    installs._install_socket = (socket) => {
      wire.tap.watch(socket, URL.canParse(installs.endpointUrl) ? new URL(installs.endpointUrl).host : installs.endpointUrl)
      install(socket)
    }
    return transport
  },
})

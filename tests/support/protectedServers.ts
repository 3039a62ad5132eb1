import { createServer, type AddressInfo, type Server, type Socket } from 'node:net'
import { createServer as createTls, TLSSocket, type TlsOptions } from 'node:tls'
import type { Closing } from './engineOn'

/** A server on a free port of this machine, gone with all its connections afterwards. */
export const listening = async (closing: Closing, server: Server) => {
  const sockets = new Set<Socket>()
  server.on('connection', (socket: Socket) => sockets.add(socket.on('error', () => {})))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(async () => {
    for (const socket of sockets) socket.destroy()
    await new Promise((resolve) => server.close(resolve))
  })
  return (server.address() as AddressInfo).port
}

/** A port that speaks TLS from the first byte, and takes whatever comes through it. */
export const tlsPort = (closing: Closing, options: TlsOptions) =>
  listening(
    closing,
    createTls(options, (socket) => socket.on('error', () => {}).resume()).on('tlsClientError', () => {}),
  )

/** A port at which PostgreSQL’s question for TLS comes first (PostgreSQL, 53.7). */
export const tlsAfterQuestion = (closing: Closing, options: TlsOptions) =>
  listening(
    closing,
    createServer((socket) =>
      socket.once('data', () => {
        socket.write('S')
        new TLSSocket(socket, { isServer: true, ...options }).on('error', () => {}).resume()
      }),
    ),
  )

/** A port of which the service does this with each connection. */
export const barePort = (closing: Closing, take: (socket: Socket) => void) => listening(closing, createServer(take))

import { createServer, type RequestListener, type Server } from 'node:http'
import { createServer as createSecure } from 'node:https'
import type { Socket } from 'node:net'
import type { HttpDoor } from '#shared/outlets/httpServer'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Opened } from '../doors/doorSet'
import { listening, secretsOf, type Knocks } from '../doors/listening'

/** Who says what he wants too slowly holds up nobody for ever. */
const patience = { headersTimeout: 10_000, requestTimeout: 60_000, keepAliveTimeout: 30_000, maxHeaderSize: 16_384 }

/** Listens at a door; `came` gets each connection as it is read, decrypted. Rejects where the port cannot be had. */
export const listenAt = (
  door: HttpDoor,
  own: Pick<OwnCertificate, 'key' | 'pem'>,
  heard: Knocks & { asked: RequestListener; malformed(from: string, problem: string): void; came(connection: Socket): void },
): Promise<Opened> => {
  const server: Server = door.tls ? createSecure({ ...secretsOf(own), ...patience }, heard.asked) : createServer(patience, heard.asked)
  server.on(door.tls ? 'secureConnection' : 'connection', (connection: Socket) => {
    heard.came(connection)
    // with a listener for its bytes the parser takes them from the stream, where they are seen, and not from below it
    connection.on('data', () => {})
  })
  server.on('clientError', (error, socket) => {
    const from = (socket as { remoteAddress?: string }).remoteAddress ?? 'somewhere'
    heard.malformed(from, error.message)
    if (socket.writable) socket.end('HTTP/1.1 400 Bad Request\r\nconnection: close\r\ncontent-length: 0\r\n\r\n')
    else socket.destroy()
  })
  return listening(server, door, heard)
}

import type { Server, Socket } from 'node:net'
import type { DoorPlace } from '#shared/outlets/doors'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Opened } from './doorSet'

export interface Knocks {
  /** Whether one more may come from there. */
  admits(socket: Socket, ofDoor: ReadonlySet<Socket>): boolean
  /** A raw connection, before anything is said. */
  knocked(socket: Socket): void
  /** Somebody could not agree with us on how to be secure. */
  unsecured(from: string, problem: string): void
}

/** What a server shows of us, with TLS. */
export const secretsOf = ({ key, pem }: Pick<OwnCertificate, 'key' | 'pem'>) => ({ key, cert: pem, minVersion: 'TLSv1.2' as const })

/** Has a server listen at a door. Rejects where the port cannot be had. */
export const listening = async (server: Server, door: DoorPlace, { admits, knocked, unsecured }: Knocks): Promise<Opened> => {
  const sockets = new Set<Socket>()
  server.prependListener('connection', (socket: Socket) => {
    knocked(socket)
    if (!admits(socket, sockets)) return void socket.destroy()
    sockets.add(socket.setNoDelay(true))
    socket.on('error', () => {}).once('close', () => sockets.delete(socket))
  })
  server.on('tlsClientError', (error: Error, socket: Socket) => unsecured(socket.remoteAddress ?? 'somewhere', error.message))
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(door.port, door.interface, () => {
      server.off('error', reject).on('error', () => {})
      resolve()
    })
  })
  return {
    close: async () => {
      for (const socket of sockets) socket.destroy()
      await new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}

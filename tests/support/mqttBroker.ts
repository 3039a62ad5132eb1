import { createServer, type Socket } from 'node:net'
import { Aedes, type AedesOptions } from 'aedes'

/** A broker that is not ours, on a port of its own. */
export const startBroker = async (options: AedesOptions = {}, port = 0) => {
  const broker = await Aedes.createBroker(options)
  const sockets = new Set<Socket>()
  const server = createServer((socket) => {
    sockets.add(socket.on('close', () => sockets.delete(socket)))
    broker.handle(socket)
  })
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
  return {
    broker,
    port: (server.address() as { port: number }).port,
    publish: (topic: string, payload: string | Buffer, more: { retain?: boolean; qos?: 0 | 1 | 2 } = {}) =>
      new Promise<void>((resolve, reject) =>
        broker.publish({ cmd: 'publish', topic, payload, qos: 0, retain: false, dup: false, ...more }, (error) =>
          error ? reject(error) : resolve(),
        ),
      ),
    drop: () => sockets.forEach((socket) => socket.destroy()),
    stop: async () => {
      sockets.forEach((socket) => socket.destroy())
      await new Promise<void>((resolve) => server.close(() => resolve()))
      await new Promise<void>((resolve) => broker.close(() => resolve()))
    },
  }
}

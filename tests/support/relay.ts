import { createServer, Socket } from 'node:net'
import { Transform } from 'node:stream'

/** A TCP relay before a port: it can be held, so that nothing gets through and nobody is told, cut, and told to spoil what passes next. */
export const relayTo = async (targetPort: number) => {
  const pairs = new Set<{ near: Socket; far: Socket }>()
  let held = false
  let spoils = false
  let lastHeard = Buffer.alloc(0)
  const server = createServer((near) => {
    const pair = { near, far: new Socket().connect(targetPort, '127.0.0.1') }
    pairs.add(pair)
    const end = () => {
      pairs.delete(pair)
      near.destroy()
      pair.far.destroy()
    }
    for (const socket of [near, pair.far]) socket.on('error', () => {}).on('close', end)
    const spoiling = new Transform({
      transform: (bytes: Buffer, _, give) => {
        if (spoils) bytes[bytes.length - 1]! ^= 0xff
        spoils = false
        give(null, bytes)
      },
    })
    pair.far.on('data', (bytes) => (lastHeard = bytes))
    pair.near.pipe(spoiling).pipe(pair.far).pipe(pair.near)
    if (held) hold(pair)
  })
  const hold = ({ near, far }: { near: Socket; far: Socket }) => {
    near.unpipe()
    far.unpipe(near)
    near.pause()
    far.pause()
  }
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    port: (server.address() as { port: number }).port,
    /** Changes the last byte of what the near side sends next. */
    spoilNext: () => (spoils = true),
    /** What the far side sent last. */
    heard: () => lastHeard,
    hold: () => {
      held = true
      pairs.forEach(hold)
    },
    letGo: () => {
      held = false
      for (const { near, far } of pairs) near.pipe(far).pipe(near)
    },
    cut: () => {
      for (const { near, far } of pairs) {
        near.destroy()
        far.destroy()
      }
    },
    close: () => {
      for (const { near, far } of pairs) {
        near.destroy()
        far.destroy()
      }
      return new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}

import { createServer, Socket } from 'node:net'

/** A TCP relay before a port: it can be held, so that nothing gets through and nobody is told, and cut. */
export const relayTo = async (targetPort: number) => {
  const pairs = new Set<{ near: Socket; far: Socket }>()
  let held = false
  const server = createServer((near) => {
    const pair = { near, far: new Socket().connect(targetPort, '127.0.0.1') }
    pairs.add(pair)
    const end = () => {
      pairs.delete(pair)
      near.destroy()
      pair.far.destroy()
    }
    for (const socket of [near, pair.far]) socket.on('error', () => {}).on('close', end)
    pair.near.pipe(pair.far).pipe(pair.near)
    if (held) hold(pair)
  })
  const hold = ({ near, far }: { near: Socket; far: Socket }) => {
    near.unpipe(far)
    far.unpipe(near)
    near.pause()
    far.pause()
  }
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    port: (server.address() as { port: number }).port,
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

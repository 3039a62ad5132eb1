import { connect, createServer, type Socket } from 'node:net'

/** A way to a port of this machine that can be cut and mended. */
export const openCuttable = async (port: number) => {
  const open = new Set<Socket>()
  let isCut = false
  const server = createServer((near) => {
    if (isCut) return near.destroy()
    const far = connect(port, '127.0.0.1')
    for (const [one, other] of [
      [near, far],
      [far, near],
    ] as const) {
      open.add(one)
      one
        .on('error', () => {})
        .on('close', () => {
          open.delete(one)
          other.destroy()
        })
    }
    near.pipe(far).pipe(near)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const drop = () => open.forEach((socket) => socket.destroy())
  return {
    base: `http://127.0.0.1:${(server.address() as { port: number }).port}`,
    cut: () => {
      isCut = true
      drop()
    },
    mend: () => {
      isCut = false
    },
    close: async () => {
      drop()
      await new Promise((resolve) => server.close(resolve))
    },
  }
}

import { once } from 'node:events'
import { createServer, connect, type Socket } from 'node:net'
import { Wire } from '#engine/wire/wire'
import { perSecond, times, type Section } from './report'

const frames = 30_000
const frame = Buffer.alloc(12, 7)

/** Requests and replies of a device, one after the other, over a socket that is shown to a tap or not. */
const measure = async (dial: (port: number) => Promise<Socket>) => {
  const server = createServer((socket) => socket.setNoDelay(true).pipe(socket))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const socket = (await dial((server.address() as { port: number }).port)).setNoDelay(true)
  const started = performance.now()
  await new Promise<void>((resolve) => {
    let count = 0
    socket.on('data', () => (++count < frames ? socket.write(frame) : resolve()))
    socket.write(frame)
  })
  const rate = (frames * 1000) / (performance.now() - started)
  socket.destroy()
  await new Promise((resolve) => server.close(resolve))
  return rate
}

const median = (values: number[]) => [...values].sort((a, b) => a - b)[values.length >> 1]!

export const tapCase = async (): Promise<Section> => {
  const [off, on, plain]: number[][] = [[], [], []]
  const bare = async (port: number) => {
    const socket = connect(port, '127.0.0.1')
    await once(socket, 'connect')
    return socket
  }
  const through = (wire: Wire) => (port: number) => wire.dial({ host: '127.0.0.1', port, connectMs: 2000 })
  const looked = new Wire()
  // in turns, so that whatever else the machine does meets all alike
  for (let i = 0; i < 15; i++) {
    plain!.push(await measure(bare))
    off!.push(await measure(through(new Wire())))
    looked.tap.look(0, 1)
    on!.push(await measure(through(looked)))
  }
  looked.close()
  const row = (what: string, rates: number[], aim: string) => ({
    what,
    ours: perSecond(median(rates)),
    plain: perSecond(median(plain!)),
    ratio: times(median(rates) / median(plain!)),
    aim,
  })
  return {
    title: 'Tap',
    how: 'Round trips of frames of 12 bytes over loopback, fifteen runs in turns, their medians. Plain: the socket as it is.',
    rows: [row('nobody looks', off!, '0.99 × or more'), row('somebody looks', on!, '—')],
  }
}

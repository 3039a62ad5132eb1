import { once } from 'node:events'
import { createServer, connect, type Socket } from 'node:net'
import jsmodbus from 'jsmodbus'
import { protocolOf } from '#core/links/registry'
import { ModbusConnection } from '#engine/links/modbus/connection'
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

const requests = 10_000

/** Readings of a device by a link’s connection, one after the other; the device answers at once, in this very process. */
const readings = async (wire: Wire) => {
  const server = createServer((socket) => socket.setNoDelay(true))
  new jsmodbus.server.TCP(server, { holding: Buffer.alloc(400) })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as { port: number }
  const connection = await ModbusConnection.open(wire, { host: '127.0.0.1', port, connectMs: 2000 }, { late: 0, foreign: 0 }, () => {})
  const started = performance.now()
  for (let n = 0; n < requests; n++) {
    const { kind } = await connection.send(1, { fc: 3, offset: n % 80, count: 40 }, 1000)
    if (kind !== 'reply') throw new Error(`a reading came to ${kind}`)
  }
  const rate = (requests * 1000) / (performance.now() - started)
  connection.close()
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
  const [read, readLooked]: number[][] = [[], []]
  for (let i = 0; i < 9; i++) {
    const [quiet, shown] = [new Wire(protocolOf('modbus-tcp').frames), new Wire(protocolOf('modbus-tcp').frames)]
    read!.push(await readings(quiet))
    shown.tap.look(0, 1)
    readLooked!.push(await readings(shown))
    quiet.close()
    shown.close()
  }
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
    rows: [
      row('nobody looks', off!, '0.99 × or more'),
      row('somebody looks', on!, '—'),
      {
        what: 'readings of a link while somebody looks, against nobody',
        ours: perSecond(median(readLooked!)),
        plain: perSecond(median(read!)),
        ratio: times(median(readLooked!) / median(read!)),
        aim: '0.95 × or more',
      },
    ],
  }
}

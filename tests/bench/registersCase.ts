import { once } from 'node:events'
import { connect } from 'node:net'
import { encodeFrame } from '#core/modbus/mbap'
import { encodeRequest } from '#core/modbus/pdu'
import { forkBundled } from './child'
import { perSecond, times, type Section } from './report'

const seconds = 4
const rounds = 3
const clients = 100
const registers = 120
const replyLength = 9 + 2 * registers

/** One client: the next request as soon as the reply is there. Ends when it is told to. */
const client = async (port: number, at: number, count: () => void, isOver: () => boolean) => {
  const socket = connect(port, '127.0.0.1').setNoDelay(true)
  await once(socket, 'connect')
  const request = encodeFrame(1, 1, encodeRequest({ fc: 3, offset: (at * registers) % 5760, count: registers }))
  let got = 0
  await new Promise<void>((resolve, reject) => {
    socket.on('error', reject).on('data', (chunk: Buffer) => {
      got += chunk.length
      if (got < replyLength) return
      if (got > replyLength || chunk[chunk.length - replyLength + 7] === 0x83) return reject(new Error('not the reply that was asked for'))
      got = 0
      count()
      if (isOver()) resolve()
      else socket.write(request)
    })
    socket.write(request)
  })
  socket.destroy()
}

const run = async (isOurs: boolean): Promise<number> => {
  const child = await forkBundled('registers.ts', isOurs ? { CONDUIT_BENCH_OURS: '1' } : {})
  const [port] = (await once(child, 'message')) as [number]
  let total = 0
  const end = performance.now() + 1000 + seconds * 1000
  const all = Promise.all(
    Array.from({ length: clients }, (_, i) =>
      client(
        port,
        i,
        () => total++,
        () => performance.now() > end,
      ),
    ),
  )
  await new Promise((resolve) => setTimeout(resolve, 1000))
  const [before, began] = [total, performance.now()]
  await all
  const rate = (total - before) / ((performance.now() - began) / 1000)
  child.kill()
  return rate
}

export const registersCase = async (): Promise<Section> => {
  const [ours, plain]: [number[], number[]] = [[], []]
  for (let i = 0; i < rounds; i++) {
    plain.push(await run(false))
    ours.push(await run(true))
  }
  const middle = (all: number[]) => all.sort((a, b) => a - b)[1]!
  return {
    title: '100 Modbus clients, 120 registers each',
    how: `Replies a second; ${clients} clients each ask for ${registers} registers again as soon as they have them, while all of 3,000 values change five times a second; the middle of three. Ours looks at the map, at rights and at each request. Plain: a bare \`jsmodbus\` server over one buffer into which values are written.`,
    rows: [
      {
        what: 'replies',
        ours: perSecond(middle(ours)),
        plain: perSecond(middle(plain)),
        ratio: times(middle(ours) / middle(plain)),
        aim: 'at least 0.9',
      },
    ],
  }
}

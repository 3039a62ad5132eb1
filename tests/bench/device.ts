import { createServer } from 'node:net'
import { FrameCutter } from '#core/modbus/mbap'

/**
 * A device in a process of its own. It answers each read `CONDUIT_BENCH_TURNAROUND` ms after it
 * came, requests do not queue, and every register changes with every reply.
 */
const turnaround = Number(process.env.CONDUIT_BENCH_TURNAROUND ?? 1)
let count = 0

const reply = (transaction: number, unit: number, pdu: Buffer): Buffer => {
  const registers = pdu.readUInt16BE(3)
  const frame = Buffer.allocUnsafe(9 + 2 * registers)
  frame.writeUInt16BE(transaction, 0)
  frame.writeUInt16BE(0, 2)
  frame.writeUInt16BE(3 + 2 * registers, 4)
  frame[6] = unit
  frame[7] = pdu[0]!
  frame[8] = 2 * registers
  count = (count + 1) & 0x3fff
  for (let i = 0; i < registers; i++) frame.writeUInt16BE(count, 9 + 2 * i)
  return frame
}

const server = createServer((socket) => {
  socket.setNoDelay(true)
  const cutter = new FrameCutter()
  socket.on('error', () => {})
  socket.on('data', (chunk) => {
    for (const { transaction, unit, pdu } of cutter.push(chunk).frames) {
      const answer = reply(transaction, unit, pdu)
      if (turnaround > 0) setTimeout(() => socket.write(answer), turnaround)
      else socket.write(answer)
    }
  })
})
server.listen(0, '127.0.0.1', () => process.send?.((server.address() as { port: number }).port))
process.once('disconnect', () => process.exit(0))

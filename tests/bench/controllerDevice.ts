import { createServer } from 'node:net'
import { decodeJob, encodeReadAnswer, encodeSetupAnswer } from '#core/isotcp/pdu'
import { encodeConfirm, encodeData, PacketCutter } from '#core/isotcp/tpkt'

/** A controller in a process of its own: each read is answered 1 ms after it came, with other values each time. */
const turnaroundMs = 1
const granted = { size: 240, parallel: 1 }
let count = 0

const server = createServer((socket) => {
  socket.setNoDelay(true)
  const cutter = new PacketCutter()
  socket.on('error', () => {})
  socket.on('data', (chunk) => {
    for (const tpdu of cutter.push(chunk).tpdus) {
      if (tpdu.kind === 'request')
        socket.write(encodeConfirm(tpdu.reference, 1, { ours: Buffer.from([1, 0]), theirs: Buffer.from([2, 2]) }))
      const job = tpdu.kind === 'data' ? decodeJob(tpdu.data) : null
      if (job?.kind === 'setup') socket.write(encodeData(encodeSetupAnswer(job.reference, granted)))
      if (job?.kind !== 'read') continue
      const value = ++count & 0x3f
      const answers = job.pieces.map(({ count: bytes }) => ({ ok: true as const, data: Buffer.alloc(bytes, value) }))
      const answer = encodeData(encodeReadAnswer(job.reference, job.pieces, answers))
      setTimeout(() => socket.write(answer), turnaroundMs)
    }
  })
})
server.listen(0, '127.0.0.1', () => process.send?.((server.address() as { port: number }).port))
process.once('disconnect', () => process.exit(0))

import { createServer } from 'node:net'
import type { Closing } from './engineOn'

/** A device that counts ten times a second, and answers that to each read of one holding register (Modbus TCP, function 3); and who asked when. */
export const countingDevice = async (closing: Closing) => {
  const asked: { at: number; connection: number }[] = []
  let connections = 0
  let count = 0
  const timer = setInterval(() => (count = (count + 1) % 65_536), 100)
  const sockets = new Set<{ destroy(): void }>()
  const server = createServer((socket) => {
    const connection = connections++
    sockets.add(socket)
    let rest = Buffer.alloc(0)
    socket.on('error', () => {}).on('close', () => sockets.delete(socket))
    socket.on('data', (bytes) => {
      rest = Buffer.concat([rest, bytes])
      for (; rest.length >= 12; rest = rest.subarray(12)) {
        asked.push({ at: Date.now(), connection })
        const words = rest.readUInt16BE(10)
        const answer = Buffer.alloc(9 + 2 * words)
        rest.copy(answer, 0, 0, 8)
        answer.writeUInt16BE(3 + 2 * words, 4)
        answer[8] = 2 * words
        for (let i = 0; i < words; i++) answer.writeUInt16BE(count, 9 + 2 * i)
        socket.write(answer)
      }
    })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(async () => {
    clearInterval(timer)
    for (const socket of sockets) socket.destroy()
    await new Promise((resolve) => server.close(resolve))
  })
  return { port: (server.address() as { port: number }).port, asked }
}

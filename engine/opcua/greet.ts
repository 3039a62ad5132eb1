import type { Socket } from 'node:net'
import { fault, type Fault } from '#core/faults/catalogue'
import { encodeHello, readGreeting } from '#core/opcua/hello'
import { qualityName, statusWords } from '#core/tags/quality'

/** Says Hello and reads the answer: null when it is OPC UA, else what it is. */
export const greet = (socket: Socket, url: string, host: string, port: number, ms: number): Promise<Fault | null> =>
  new Promise((resolve) => {
    let bytes = Buffer.alloc(0)
    const give = (outcome: Fault | null) => {
      clearTimeout(timer)
      socket.destroy()
      resolve(outcome)
    }
    const timer = setTimeout(() => give(fault('opcua.silent-hello', { host, port, ms }, 'connection open, no bytes came back')), ms)
    socket.on('error', () => give(notOpcua(host, port, bytes)))
    socket.on('close', () => give(notOpcua(host, port, bytes)))
    socket.on('data', (part) => {
      bytes = Buffer.concat([bytes, part])
      const answer = readGreeting(bytes)
      if (answer.kind === 'acknowledge') give(null)
      else if (answer.kind === 'foreign') give(notOpcua(host, port, bytes))
      else if (answer.kind === 'error') give(helloRefused(host, port, qualityName(answer.status), answer.reason))
    })
    socket.write(encodeHello(url))
  })

const shownBytes = 24

const notOpcua = (host: string, port: number, bytes: Buffer) =>
  fault(
    'opcua.not-opcua',
    { host, port },
    bytes.length > 0 ? `it answered “${printable(bytes.subarray(0, shownBytes))}”` : 'it closed the connection at our Hello',
  )

const printable = (bytes: Buffer) => bytes.toString('latin1').replace(/[^\x20-\x7e]/g, '·')

const helloRefused = (host: string, port: number, status: string, reason: string) =>
  fault('opcua.hello-refused', { host, port, status, words: statusWords(status) }, reason ? `${status}: ${reason}` : status)

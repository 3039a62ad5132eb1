import type { Socket } from 'node:net'
import { fault } from '#core/faults/catalogue'
import type { HttpSettings } from '#core/http/settings'
import { statusText } from '#core/http/status'
import type { Wire } from '../../wire/wire'

type Proxy = Extract<HttpSettings['proxy'], { kind: 'http' }>

const mostHead = 16 * 1024

/** A connection through a proxy, to be used as if there were none (CONNECT, RFC 9110, 9.3.6). Rejects with a Fault. */
export const tunnelTo = async (
  target: { host: string; port: number },
  {
    proxy,
    password,
    connectMs,
    wire,
    signal,
  }: { proxy: Proxy; password: string | null; connectMs: number; wire: Wire; signal?: AbortSignal },
): Promise<Socket> => {
  const { host, port, identity } = proxy
  const socket = await wire.dial({ host, port, connectMs, isSeen: false, ...(signal ? { signal } : {}) })
  const authority = `${target.host.includes(':') ? `[${target.host}]` : target.host}:${target.port}`
  const account = identity.kind === 'password' ? `${identity.user}:${password ?? ''}` : null
  const lines = [
    `CONNECT ${authority} HTTP/1.1`,
    `Host: ${authority}`,
    ...(account === null ? [] : [`Proxy-Authorization: Basic ${Buffer.from(account, 'utf8').toString('base64')}`]),
  ]
  socket.write(`${lines.join('\r\n')}\r\n\r\n`)
  const problem = await saidBy(socket, connectMs)
  if (problem === null) return socket
  socket.destroy()
  throw fault('http.proxy', { host, port, problem }, problem) as unknown as Error
}

/** What it says against it; null: nothing. What comes behind its answer stays on the connection. */
const saidBy = (socket: Socket, withinMs: number): Promise<string | null> =>
  new Promise((resolve) => {
    let head = Buffer.alloc(0)
    const end = (problem: string | null) => {
      clearTimeout(timer)
      socket.off('data', hear).off('error', broken).off('close', broken)
      socket.pause()
      resolve(problem)
    }
    const broken = () => end('it closed the connection')
    const hear = (chunk: Buffer) => {
      head = Buffer.concat([head, chunk])
      const at = head.indexOf('\r\n\r\n')
      if (at < 0) return head.length > mostHead ? end('what it says is no HTTP') : undefined
      const status = /^HTTP\/1\.[01] (\d{3})/.exec(head.toString('latin1', 0, 15))?.[1]
      if (head.length > at + 4) socket.unshift(head.subarray(at + 4))
      if (status === undefined) return end('what it says is no HTTP')
      end(status.startsWith('2') ? null : `it answered with status ${status}: ${wordsFor(Number(status))}`)
    }
    const timer = setTimeout(() => end(`it did not answer within ${withinMs} ms`), withinMs)
    socket.on('data', hear).once('error', broken).once('close', broken)
  })

const wordsFor = (status: number) => (status === 407 ? 'name and password are wanted' : statusText(status))

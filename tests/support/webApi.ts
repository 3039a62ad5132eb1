import { createServer, type IncomingMessage, type RequestListener, type ServerResponse } from 'node:http'
import { createServer as createSecure } from 'node:https'
import type { AddressInfo } from 'node:net'

export interface Asked {
  method: string
  url: string
  headers: IncomingMessage['headers']
  body: string
  at: number
}

type Reply = (asked: Asked, response: ServerResponse) => void

/** A web API that is not ours: Node's own server, with what it was asked, and answers that a test gives. */
export const startWebApi = async (reply: Reply, tls?: { cert: string; key: string }) => {
  const asked: Asked[] = []
  let answer = reply
  const listener: RequestListener = (request, response) => {
    const chunks: Buffer[] = []
    request.on('data', (chunk: Buffer) => chunks.push(chunk))
    request.on('end', () => {
      const { method = '', url = '', headers } = request
      const one = { method, url, headers, body: Buffer.concat(chunks).toString(), at: Date.now() }
      asked.push(one)
      answer(one, response)
    })
  }
  const server = tls ? createSecure(tls, listener) : createServer(listener)
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as AddressInfo
  return {
    ...{ port, asked, base: `${tls ? 'https' : 'http'}://127.0.0.1:${port}` },
    answers: (next: Reply) => (answer = next),
    /** Another certificate from now on. */
    show: ({ certificate, key }: { certificate: string; key: string }) => {
      if ('setSecureContext' in server) server.setSecureContext({ cert: certificate, key })
    },
    stop: () =>
      new Promise<void>((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}

/** Bytes without an end, as quick as they are taken. */
export const pour = (response: ServerResponse) => {
  const more = () => {
    while (response.write('x'.repeat(65_536)));
    response.once('drain', more)
  }
  more()
}

export const json = (response: ServerResponse, value: unknown, status = 200, headers: Record<string, string> = {}) =>
  response.writeHead(status, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(value))

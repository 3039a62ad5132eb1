import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { promisify } from 'node:util'
import { gunzip as gunzipWith } from 'node:zlib'
import { cloudDocument, documentPage } from './document'
import { cloudFaultText, isCloudFault, type PortCloud } from './platform'

const gunzip = promisify(gunzipWith)
const mostBody = 16 * 1024 * 1024

/** The platform by HTTP: what sites call, its page, and its faults. */
export class CloudDoor {
  private server: Server

  constructor(
    private cloud: PortCloud,
    private page: string,
  ) {
    this.server = createServer((request, response) => {
      this.answer(request, response).catch((error: Error) => reply(response, 400, { detail: error.message }))
    })
  }

  listen(port: number): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(port, '127.0.0.1', () => resolve((this.server.address() as { port: number }).port))
    })
  }

  async close() {
    this.server.closeAllConnections()
    await new Promise<void>((resolve) => this.server.close(() => resolve()))
  }

  private async answer(request: IncomingMessage, response: ServerResponse) {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://cloud')
    const called = /^\/v1\/sites\/([^/]+)\/(model|values)$/.exec(pathname)
    if (called) return this.call(request, response, decodeURIComponent(called[1]!), called[2] as 'model' | 'values')
    if (request.method === 'POST') return this.control(request, response, pathname)
    if (pathname === '/') return html(response, this.page)
    if (pathname === '/api/counts') return reply(response, 200, this.cloud.counts())
    if (pathname === '/api/overview') return reply(response, 200, this.overview())
    if (pathname === '/api/rows') return reply(response, 200, this.rows(searchParams))
    if (pathname === '/openapi.json') return reply(response, 200, cloudDocument(`http://${request.headers.host ?? 'localhost'}`))
    if (pathname === '/docs') return html(response, documentPage(`http://${request.headers.host ?? 'localhost'}`))
    reply(response, 404, { detail: `Nothing at ${pathname}.` })
  }

  private async call(request: IncomingMessage, response: ServerResponse, site: string, of: 'model' | 'values') {
    const { faults } = this.cloud
    if (faults.has('away')) return void request.socket.destroy()
    const { body, bytes } = request.method === 'POST' ? await readBody(request) : { body: null, bytes: 0 }
    if (faults.has('silence')) return
    const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? ''
    const what = of === 'values' ? 'values' : request.method === 'POST' ? 'steps' : 'model'
    const { status, after, detail, answer } = this.cloud.handle(what, site, token, body, bytes)
    response.setHeader('date', new Date(this.cloud.clock).toUTCString())
    if (after !== null) response.setHeader('retry-after', String(Math.ceil(after / 1000)))
    reply(response, status, status === 200 ? answer : { status, detail })
  }

  private overview() {
    return {
      counts: this.cloud.counts(),
      faults: cloudFaultText,
      active: [...this.cloud.faults],
      sites: [...this.cloud.sites].map(([name, site]) => ({
        name,
        ...site.model(),
        streams: [...site.streams.values()].map(({ recent, ...facts }) => ({ ...facts, last: recent.at(-1) ?? null })),
        unbound: site.unbound().map(({ key }) => key),
        refused: site.lastRefused,
      })),
    }
  }

  /** The latest values of a stream: rows. */
  private rows(query: URLSearchParams) {
    return { rows: this.cloud.sites.get(query.get('site') ?? '')?.streams.get(query.get('stream') ?? '')?.recent ?? [] }
  }

  private async control(request: IncomingMessage, response: ServerResponse, path: string) {
    const { body } = await readBody(request)
    const { fault, on, id, name } = (body ?? {}) as Record<string, unknown>
    if (path === '/api/clear') this.cloud.clear()
    else if (path === '/api/fault' && isCloudFault(fault)) this.cloud.setFault(fault, on === true)
    else if (path === '/api/rename') {
      const isDone = [...this.cloud.sites.values()].some((site) => site.rename(String(id), String(name)))
      if (!isDone) return reply(response, 404, { detail: `There is nothing with the id ${String(id)}.` })
    } else return reply(response, 400, { detail: `A fault is one of ${Object.keys(cloudFaultText).join(', ')}.` })
    reply(response, 200, { done: true })
  }
}

const readBody = async (request: IncomingMessage): Promise<{ body: unknown; bytes: number }> => {
  const chunks: Buffer[] = []
  let bytes = 0
  for await (const chunk of request as AsyncIterable<Buffer>) {
    bytes += chunk.length
    if (bytes > mostBody) throw new Error('The body is too long.')
    chunks.push(chunk)
  }
  const whole = Buffer.concat(chunks)
  const text = request.headers['content-encoding'] === 'gzip' ? await gunzip(whole, { maxOutputLength: mostBody }) : whole
  return { body: text.length === 0 ? null : (JSON.parse(text.toString('utf8')) as unknown), bytes }
}

const reply = (response: ServerResponse, status: number, body: unknown) => {
  response.writeHead(status, {
    'content-type': status < 400 ? 'application/json' : 'application/problem+json',
    'cache-control': 'no-store',
  })
  response.end(JSON.stringify(body))
}

const html = (response: ServerResponse, page: string) => {
  response.writeHead(200, {
    'content-type': 'text/html; charset=utf-8',
    'content-security-policy': "default-src 'self'; style-src 'unsafe-inline'; script-src 'unsafe-inline'",
  })
  response.end(page)
}

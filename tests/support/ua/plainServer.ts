import { connect, createServer, type Server, type Socket } from 'node:net'
import { frame, onMessages, Reader, securityNone, Writer, type Message } from './bytes'
import { services, type Session } from './services'
import { PlainSpace } from './space'
import { status } from './status'
import { Subscriptions } from './subscriptions'

/** What real servers do otherwise than one hopes. */
export interface Habits {
  /** More than this in one request is refused, whatever the limits say that it tells. */
  takes: Record<'read' | 'write' | 'browse' | 'translate' | 'items', number>
  /** References that one answer holds, and how many places it remembers where it left off. */
  referencesAtOnce: number
  continuationPoints: number
  /** Subscriptions at these intervals say nothing at all. */
  silentIntervals: number[]
  /** Takes no deadband. */
  refusesFilters: boolean
  sessions: number
  subscriptions: number
  /** The name by which it calls itself in its endpoints. */
  callsItself: string | null
}

const harmless: Habits = {
  takes: { read: Infinity, write: Infinity, browse: Infinity, translate: Infinity, items: Infinity },
  referencesAtOnce: Infinity,
  continuationPoints: Infinity,
  silentIntervals: [],
  refusesFilters: false,
  sessions: Infinity,
  subscriptions: Infinity,
  callsItself: null,
}

const openRequest = 'i=446'
const openResponse = 'i=449'
const serviceFault = 'i=397'

/**
 * A small OPC UA server for tests, made from the standard's text and from bytes: nothing of the package
 * that the product uses is in it, so that the two cannot agree on something wrong. Without security.
 */
export class PlainServer {
  readonly habits: Habits = structuredClone(harmless)
  readonly sessions = new Map<string, Session>()
  /** Names of the services that were asked for, in order. */
  readonly asked: string[] = []
  private sockets = new Set<Socket>()
  private lastSession = 0

  private constructor(
    readonly space: PlainSpace,
    private server: Server,
  ) {}

  static async start(namespaces: string[], port = 0): Promise<PlainServer> {
    const server = createServer()
    const plain = new PlainServer(new PlainSpace(namespaces), server)
    server.on('connection', (socket) => plain.take(socket))
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
    return plain
  }

  get port(): number {
    return (this.server.address() as { port: number }).port
  }

  get url(): string {
    return `opc.tcp://${this.habits.callsItself ?? '127.0.0.1'}:${this.port}`
  }

  newSession(): Session | null {
    if (this.sessions.size >= this.habits.sessions) return null
    const token = `ns=1;i=${1000 + ++this.lastSession}`
    const session: Session = { token, subscriptions: new Subscriptions(this.space, this.habits), left: new Map(), lastLeft: 0 }
    this.sessions.set(token, session)
    return session
  }

  endSession(token: string) {
    this.sessions.get(token)?.subscriptions.close()
    this.sessions.delete(token)
  }

  /** Cuts every connection. Sessions stay, or are forgotten as by a new start. */
  cut(forgetSessions = false) {
    for (const socket of this.sockets) socket.destroy()
    if (forgetSessions) for (const token of [...this.sessions.keys()]) this.endSession(token)
  }

  async stop() {
    this.cut(true)
    await new Promise((resolve) => this.server.close(resolve))
  }

  /** Opens a connection to a client and says who it is (OPC 10000-6, 7.1.2.6); the client takes it from there. */
  dial(port: number, serverUri: string, host = '127.0.0.1'): Socket {
    const socket = connect(port, host)
    const [uri, url] = [Buffer.from(serverUri), Buffer.from(this.url)]
    this.take(socket)
    socket.write(frame('RHEF', new Writer().uint32(uri.length).raw(uri).uint32(url.length).raw(url).done()))
    return socket
  }

  /** Has one connection waiting at a client always; without it, it is dialled anew. @returns ends that */
  keepDialling(port: number, serverUri: string): () => void {
    let isWanted = true
    const one = () => {
      if (!isWanted) return
      let isTaken = false
      // what it says first: from then on another one waits
      const socket = this.dial(port, serverUri).once('data', () => {
        isTaken = true
        one()
      })
      socket.once('close', () => !isTaken && setTimeout(one, 50))
    }
    one()
    return () => (isWanted = false)
  }

  private take(socket: Socket) {
    this.sockets.add(socket)
    socket.on('close', () => this.sockets.delete(socket))
    socket.on('error', () => {})
    const channel = new Channel(socket, (request) => this.answer(request))
    onMessages(socket, (message) => channel.take(message))
  }

  private answer({ type, header, reader, reply }: Request) {
    const service = services[type]
    const refuse = (code: number) => reply(serviceFault, code, Buffer.alloc(0))
    if (!service) return refuse(status.BadServiceUnsupported)
    this.asked.push(service.name)
    const session = this.sessions.get(header.token)
    if (service.inSession && !session) return refuse(status.BadSessionIdInvalid)
    const done = (outcome: Buffer | number) =>
      typeof outcome === 'number' ? refuse(outcome) : reply(service.response, status.Good, outcome)
    service.answer({ server: this, reader, session: session!, done })
  }
}

interface RequestHeader {
  token: string
  handle: number
}

interface Request {
  type: string
  header: RequestHeader
  reader: Reader
  reply(type: string, code: number, body: Buffer): void
}

/** One connection: its Hello, its channel, its chunks (OPC 10000-6, 6.7 and 7.1). */
class Channel {
  private sequence = 0
  private mostPerChunk = 8192
  private parts = new Map<number, Buffer[]>()

  constructor(
    private socket: Socket,
    private answer: (request: Request) => void,
  ) {}

  take({ type, body }: Message) {
    if (type === 'HELF') return this.greet(new Reader(body))
    if (type === 'OPNF') return this.open(new Reader(body))
    if (type === 'CLOF') return this.socket.end()
    if (type === 'MSGC' || type === 'MSGF') this.gather(type, body)
  }

  private greet(reader: Reader) {
    reader.uint32()
    const theirs = reader.uint32()
    this.mostPerChunk = Math.max(8192, Math.min(theirs, 65_536))
    this.socket.write(frame('ACKF', new Writer().uint32(0).uint32(65_536).uint32(65_536).uint32(0).uint32(0).done()))
  }

  private open(reader: Reader) {
    reader.uint32()
    reader.string()
    reader.byteString()
    reader.byteString()
    reader.uint32()
    const requestId = reader.uint32()
    if (reader.nodeId() !== openRequest) return this.socket.destroy()
    const header = requestHeader(reader)
    const writer = new Writer().uint32(1).string(securityNone).byteString(null).byteString(null)
    writer.uint32(++this.sequence).uint32(requestId).nodeId(openResponse)
    responseHeader(writer, header.handle, status.Good)
    writer.uint32(0).uint32(1).uint32(1).time(Date.now()).uint32(600_000).byteString(null)
    this.socket.write(frame('OPNF', writer.done()))
  }

  private gather(type: string, body: Buffer) {
    const requestId = body.readUInt32LE(12)
    const parts = [...(this.parts.get(requestId) ?? []), body.subarray(16)]
    if (type === 'MSGC') return void this.parts.set(requestId, parts)
    this.parts.delete(requestId)
    const reader = new Reader(Buffer.concat(parts))
    const requested = reader.nodeId()
    const header = requestHeader(reader)
    const reply = (responseType: string, code: number, rest: Buffer) => {
      const writer = new Writer().nodeId(responseType)
      responseHeader(writer, header.handle, code)
      this.send(requestId, writer.raw(rest).done())
    }
    this.answer({ type: requested, header, reader, reply })
  }

  private send(requestId: number, message: Buffer) {
    const room = this.mostPerChunk - 24
    for (let at = 0; at < message.length; at += room) {
      const head = new Writer().uint32(1).uint32(1).uint32(++this.sequence).uint32(requestId)
      const isLast = at + room >= message.length
      this.socket.write(frame(isLast ? 'MSGF' : 'MSGC', head.raw(message.subarray(at, at + room)).done()))
    }
  }
}

/** OPC 10000-4, 7.32. */
const requestHeader = (reader: Reader): RequestHeader => {
  const token = reader.nodeId()
  reader.int64()
  const handle = reader.uint32()
  reader.uint32()
  reader.string()
  reader.uint32()
  reader.extension()
  return { token, handle }
}

/** OPC 10000-4, 7.33. */
const responseHeader = (writer: Writer, handle: number, code: number) =>
  writer.time(Date.now()).uint32(handle).uint32(code).bytes(0).none().nodeId('i=0').bytes(0)

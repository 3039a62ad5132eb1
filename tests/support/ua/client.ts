import { connect, type Socket } from 'node:net'
import { frame, onMessages, Reader, securityNone, Writer, type Message } from './bytes'

/** NodeIds of the binary encodings (OPC 10000-6, A.1). */
const ids = { openRequest: 'i=446', openResponse: 'i=449' }

/** RequestHeader (OPC 10000-4, 7.32): no token, a time, a handle, no diagnostics. */
const requestHeader = (writer: Writer, handle: number) =>
  writer.bytes(0x00, 0x00).time(Date.now()).uint32(handle).uint32(0).string(null).uint32(5000).bytes(0x00, 0x00, 0x00)

/** ResponseHeader (OPC 10000-4, 7.33). */
const responseHeader = (reader: Reader, handle: number) => {
  reader.skip(8)
  const answered = reader.uint32()
  // 0: the server could not read the header of what it answers
  if (answered !== handle && answered !== 0) throw new Error('the answer to another request')
  const result = reader.uint32()
  if (reader.byte() !== 0) throw new Error('diagnostics that nobody asked for')
  const texts = reader.list(() => reader.string() ?? '')
  reader.skip(3)
  return { result, texts }
}

/** Hands out whole messages, one after the other. */
const messagesOf = (socket: Socket) => {
  const waiting: ((message: Message) => void)[] = []
  const ready: Message[] = []
  onMessages(socket, (message) => {
    const next = waiting.shift()
    if (next) next(message)
    else ready.push(message)
  })
  return () =>
    new Promise<Message>((resolve, reject) => {
      const here = ready.shift()
      if (here) return resolve(here)
      waiting.push(resolve)
      socket.once('close', () => reject(new Error('the server hung up')))
    })
}

export interface WireAnswer {
  type: string
  result: number
  /** Texts that came along in the header. */
  texts: string[]
  body: Reader
}

/**
 * A client that speaks just enough OPC UA to ask one thing after another over an unsecured channel. Written from the
 * standard's bytes (OPC 10000-6, 5.2, 6.7 and 7.1), without the package that the server uses, so that it can tell
 * when the server and that package agree on something wrong.
 */
export class WireClient {
  private channelId = 0
  private tokenId = 0
  private sequence = 1

  private constructor(
    private socket: Socket,
    private next: () => Promise<Message>,
  ) {}

  static async open(host: string, port: number, path = ''): Promise<WireClient> {
    const url = `opc.tcp://${host}:${port}${path}`
    const socket = connect({ host, port })
    // whatever goes wrong ends in a close, which is what `next` waits for
    socket.on('error', () => {})
    const client = new WireClient(socket, messagesOf(socket))
    socket.write(frame('HELF', new Writer().uint32(0).uint32(65_536).uint32(65_536).uint32(0).uint32(0).string(url).done()))
    await client.expect('ACKF')
    await client.openChannel()
    return client
  }

  /** Sends a request, whatever its bytes are, and waits for what comes back. */
  async ask(type: string, rest: Buffer): Promise<WireAnswer> {
    const id = ++this.sequence
    const writer = new Writer().uint32(this.channelId).uint32(this.tokenId).uint32(id).uint32(id).nodeId(type)
    this.socket.write(frame('MSGF', requestHeader(writer, id).raw(rest).done()))
    const chunks: Buffer[] = []
    for (let part = await this.next(); ; part = await this.next()) {
      if (part.type === 'ERRF') throw new Error(errorText(part))
      chunks.push(part.body.subarray(16))
      if (part.type === 'MSGF') break
      if (part.type !== 'MSGC') throw new Error(`${part.type} instead of MSG`)
    }
    const body = new Reader(Buffer.concat(chunks))
    return { type: body.nodeId(), ...responseHeader(body, id), body }
  }

  close() {
    this.socket.destroy()
  }

  private async openChannel() {
    const writer = new Writer().uint32(0).string(securityNone).string(null).string(null)
    writer.uint32(1).uint32(1).nodeId(ids.openRequest)
    requestHeader(writer, 1).uint32(0).uint32(0).uint32(1).string(null).uint32(60_000)
    this.socket.write(frame('OPNF', writer.done()))
    const channel = new Reader((await this.expect('OPNF')).body)
    channel.uint32()
    if (channel.string() !== securityNone) throw new Error('another policy')
    channel.byteString()
    channel.byteString()
    channel.skip(8)
    if (channel.nodeId() !== ids.openResponse) throw new Error('no OpenSecureChannelResponse')
    if (responseHeader(channel, 1).result !== 0) throw new Error('the channel was refused')
    channel.uint32()
    this.channelId = channel.uint32()
    this.tokenId = channel.uint32()
  }

  private async expect(type: string): Promise<Message> {
    const message = await this.next()
    if (message.type !== type) throw new Error(`${message.type} instead of ${type}`)
    return message
  }
}

/** OPC 10000-6, 7.1.2.5. */
const errorText = ({ body }: Message) => {
  const reader = new Reader(body)
  return `error 0x${reader.uint32().toString(16)}: ${reader.string() ?? ''}`
}

import { connect, type Socket } from 'node:net'
import { frame, onMessages, Reader, securityNone, Writer, type Message } from './bytes'

/**
 * A client that speaks just enough OPC UA to ask for endpoints: Hello, OpenSecureChannel without
 * security, GetEndpoints. Written from the standard's bytes (OPC 10000-6, 5.2, 6.7 and 7.1), without
 * the package that the server uses, so that it can tell when the server and that package agree on
 * something wrong.
 */
export interface WireEndpoint {
  url: string
  applicationUri: string
  applicationName: string
  certificate: Buffer
  mode: number
  policy: string
  /** 0 anonymous, 1 user name, 2 certificate (OPC 10000-4, 7.42). */
  tokens: number[]
  transport: string
}

/** NodeIds of the binary encodings (OPC 10000-6, A.1). */
const ids = { openRequest: 'i=446', openResponse: 'i=449', endpointsRequest: 'i=428', endpointsResponse: 'i=431' }

/** RequestHeader (OPC 10000-4, 7.32): no token, a time, a handle, no diagnostics. */
const requestHeader = (writer: Writer, handle: number) =>
  writer.bytes(0x00, 0x00).time(Date.now()).uint32(handle).uint32(0).string(null).uint32(5000).bytes(0x00, 0x00, 0x00)

/** ResponseHeader (OPC 10000-4, 7.33); returns the service result. */
const responseHeader = (reader: Reader): number => {
  reader.skip(8 + 4)
  const result = reader.uint32()
  if (reader.byte() !== 0) throw new Error('diagnostics that nobody asked for')
  reader.list(() => reader.string())
  reader.skip(3)
  return result
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

const endpointOf = (reader: Reader): WireEndpoint => {
  const url = reader.string() ?? ''
  const applicationUri = reader.string() ?? ''
  reader.string()
  const applicationName = reader.localizedText()
  reader.skip(4)
  reader.string()
  reader.string()
  reader.list(() => reader.string())
  const certificate = Buffer.from(reader.byteString() ?? [])
  const mode = reader.uint32()
  const policy = reader.string() ?? ''
  const tokens = reader.list(() => {
    reader.string()
    const type = reader.uint32()
    reader.string()
    reader.string()
    reader.string()
    return type
  })
  const transport = reader.string() ?? ''
  reader.byte()
  return { url, applicationUri, applicationName, certificate, mode, policy, tokens, transport }
}

/** Asks a server for its endpoints, from the first byte on. */
export const endpointsByWire = async (host: string, port: number, path = ''): Promise<WireEndpoint[]> => {
  const url = `opc.tcp://${host}:${port}${path}`
  const socket = connect({ host, port })
  // whatever goes wrong ends in a close, which is what `next` waits for
  socket.on('error', () => {})
  const next = messagesOf(socket)
  try {
    socket.write(frame('HELF', new Writer().uint32(0).uint32(65_536).uint32(65_536).uint32(0).uint32(0).string(url).done()))
    const acknowledge = await next()
    if (acknowledge.type !== 'ACKF') throw new Error(`${acknowledge.type} instead of ACKF`)

    const asymmetric = new Writer().uint32(0).string(securityNone).string(null).string(null)
    asymmetric.uint32(1).uint32(1).nodeId(ids.openRequest)
    requestHeader(asymmetric, 1).uint32(0).uint32(0).uint32(1).string(null).uint32(60_000)
    socket.write(frame('OPNF', asymmetric.done()))
    const opened = await next()
    if (opened.type !== 'OPNF') throw new Error(`${opened.type} instead of OPNF`)
    const channel = new Reader(opened.body)
    channel.uint32()
    if (channel.string() !== securityNone) throw new Error('another policy')
    channel.byteString()
    channel.byteString()
    channel.skip(8)
    if (channel.nodeId() !== ids.openResponse) throw new Error('no OpenSecureChannelResponse')
    if (responseHeader(channel) !== 0) throw new Error('the channel was refused')
    channel.uint32()
    const channelId = channel.uint32()
    const tokenId = channel.uint32()

    const ask = new Writer().uint32(channelId).uint32(tokenId).uint32(2).uint32(2).nodeId(ids.endpointsRequest)
    requestHeader(ask, 2).string(url).uint32(0).uint32(0)
    socket.write(frame('MSGF', ask.done()))
    const chunks: Buffer[] = []
    for (let part = await next(); ; part = await next()) {
      chunks.push(part.body.subarray(16))
      if (part.type === 'MSGF') break
      if (part.type !== 'MSGC') throw new Error(`${part.type} instead of MSG`)
    }
    const answer = new Reader(Buffer.concat(chunks))
    if (answer.nodeId() !== ids.endpointsResponse) throw new Error('no GetEndpointsResponse')
    if (responseHeader(answer) !== 0) throw new Error('the request was refused')
    const endpoints = answer.list(() => endpointOf(answer))
    if (answer.rest !== 0) throw new Error(`${answer.rest} bytes more than the standard has`)
    return endpoints
  } finally {
    socket.destroy()
  }
}

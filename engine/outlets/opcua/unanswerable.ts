import {
  BinaryStream,
  decodeExpandedNodeId,
  MessageSecurityMode,
  RequestHeader,
  ServiceFault,
  StatusCodes,
  type ServerSecureChannelLayer,
  type StatusCode,
} from 'node-opcua'
import { beforeEachAnswer, decodeBy, type Builder } from '../../opcua/internals'

/**
 * What a server has to answer to requests that nobody can answer (OPC 10000-4, 5.3 and 7.34; OPC 10000-6, 6.7.4 and
 * 7.1.5). The package says nothing to a request that it cannot decode, hangs up on a service that it does not know,
 * calls a wrong signature an internal error, and sends its own stack along; all of that is put right here, at its edge.
 */

/** Takes the place of a request that cannot be decoded, or of a service that is not known. */
class Unanswerable {
  readonly schema = { name: 'Unanswerable' }
  constructor(
    readonly requestHeader: RequestHeader,
    readonly status: StatusCode,
  ) {}
}

interface Message {
  request: unknown
  requestId: number
}

/** Answers where no service can; false: the request is one that services look at. */
export const answeredAsUnanswerable = (message: Message, channel: ServerSecureChannelLayer): boolean => {
  const { request } = message
  if (!(request instanceof Unanswerable) && hasHeader(request)) return false
  const status = request instanceof Unanswerable ? request.status : StatusCodes.BadServiceUnsupported
  if (!(request instanceof Unanswerable)) message.request = new Unanswerable(new RequestHeader({ requestHandle: 0 }), status)
  const refusal = new ServiceFault({ responseHeader: { serviceResult: status } })
  channel.send_response('MSG', refusal as never, message as never)
  return true
}

/** Structures are no services, though they are decoded as readily. */
const hasHeader = (request: unknown) => (request as { requestHeader?: RequestHeader } | null)?.requestHeader instanceof RequestHeader

/** Has this channel tell status codes and nothing of what went on inside. */
export const keepInsideIn = (channel: Pick<ServerSecureChannelLayer, 'send_response'>) =>
  beforeEachAnswer(channel, (response) => {
    if (response instanceof ServiceFault) Object.assign(response.responseHeader, { stringTable: [], serviceDiagnostics: null })
  })

/** What came of the message that a builder takes apart just now. */
const outcomes = new WeakMap<Builder, 'unknown service' | 'told'>()

const isOfServer = ({ id }: Builder) => id.startsWith('server')
const isOpen = ({ securityMode }: Builder) => securityMode !== MessageSecurityMode.Invalid

const decode = (builder: Builder, body: Buffer, original: Builder['_decodeMessageBody']): boolean => {
  if (!isOfServer(builder) || builder.messageHeader?.msgType !== 'MSG' || !isOpen(builder)) return original.call(builder, body)
  outcomes.delete(builder)
  if (original.call(builder, body)) return true
  const outcome = outcomes.get(builder)
  if (outcome === 'told') return false
  const status = outcome === 'unknown service' ? StatusCodes.BadServiceUnsupported : StatusCodes.BadDecodingError
  const request = new Unanswerable(headerIn(body), status)
  builder.emit('message', request, 'MSG', builder.securityHeader, builder.sequenceHeader!.requestId, builder.channelId)
  return true
}

const report = (builder: Builder, status: StatusCode, text: string, original: Builder['_report_error']): false => {
  if (!isOfServer(builder)) return original.call(builder, status, text)
  if (status === StatusCodes.BadNotSupported) {
    outcomes.set(builder, 'unknown service')
    return false
  }
  outcomes.set(builder, 'told')
  return original.call(builder, statusFor(builder, status, text), '')
}

/** What the package calls internal errors are the far side's (OPC 10000-6, 6.7.4: Bad_SecurityChecksFailed for all of security). */
const statusFor = ({ securityMode }: Builder, status: StatusCode, text: string): StatusCode => {
  if (/sequence number/i.test(text)) return StatusCodes.BadSequenceNumberInvalid
  if (/signature|decrypt|encrypted|security policy/i.test(text)) return StatusCodes.BadSecurityChecksFailed
  const isSecured = securityMode !== MessageSecurityMode.None
  if (isSecured && /^internal error/i.test(text)) return StatusCodes.BadSecurityChecksFailed
  return /decode/i.test(text) ? StatusCodes.BadDecodingError : status
}

/** As much as can be read of it; the handle in it is what the answer is found by. */
const headerIn = (body: Buffer): RequestHeader => {
  const header = new RequestHeader({ requestHandle: 0 })
  try {
    const stream = new BinaryStream(body)
    decodeExpandedNodeId(stream)
    header.decode(stream)
  } catch {
    // the rest keeps its defaults
  }
  return header
}

decodeBy(decode, report)

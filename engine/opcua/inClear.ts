import { BinaryStream, encodeExpandedNodeId, OpenSecureChannelRequest, OpenSecureChannelResponse, type ExpandedNodeId } from 'node-opcua'

/** A request or an answer, as the package makes them. */
interface Message {
  schema: { encodingDefaultBinary?: ExpandedNodeId }
  requestHeader?: { requestHandle: number }
  responseHeader?: { requestHandle: number }
  binaryStoreSize(stream?: unknown): number
  encode(stream: BinaryStream): void
}

const headBytes = 24
const mostTypeBytes = 32

/**
 * A message that travels signed or encrypted as it would travel in the clear: one chunk (OPC 10000-6, 6.7.2) without channel
 * and token, numbered by the handle of the request.
 */
export const inClear = (message: object): Uint8Array => {
  const { schema, requestHeader, responseHeader } = message as Message
  const bytes = Buffer.alloc(headBytes + mostTypeBytes + (message as Message).binaryStoreSize())
  const stream = new BinaryStream(bytes)
  stream.length = headBytes
  encodeExpandedNodeId(schema.encodingDefaultBinary!, stream)
  ;(message as Message).encode(stream)
  bytes.write('MSGF', 'latin1')
  bytes.writeUInt32LE(stream.length, 4)
  bytes.writeUInt32LE((requestHeader ?? responseHeader)?.requestHandle ?? 0, 20)
  return bytes.subarray(0, stream.length)
}

/** How the channel is opened is seen as it travels. */
export const isInside = (message: object): boolean =>
  !(message instanceof OpenSecureChannelRequest || message instanceof OpenSecureChannelResponse)

/** Whether a chunk carries a part of a message that only both ends can read. */
export const isSecuredMessage = (chunk: Uint8Array): boolean => messageKinds.has(String.fromCharCode(...chunk.subarray(0, 3)))
const messageKinds = new Set(['MSG', 'CLO'])

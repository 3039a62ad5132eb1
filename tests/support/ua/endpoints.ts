import type { Reader } from './bytes'
import { Writer } from './bytes'
import { WireClient } from './client'

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
const ids = { endpointsRequest: 'i=428', endpointsResponse: 'i=431' }

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
  const client = await WireClient.open(host, port, path)
  try {
    const url = `opc.tcp://${host}:${port}${path}`
    const { type, result, body } = await client.ask(ids.endpointsRequest, new Writer().string(url).uint32(0).uint32(0).done())
    if (type !== ids.endpointsResponse) throw new Error('no GetEndpointsResponse')
    if (result !== 0) throw new Error('the request was refused')
    const endpoints = body.list(() => endpointOf(body))
    if (body.rest !== 0) throw new Error(`${body.rest} bytes more than the standard has`)
    return endpoints
  } finally {
    client.close()
  }
}

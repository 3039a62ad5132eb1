import { severityOf } from '../../tags/quality'
import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { TooShort, type FrameReader } from '../reader'
import type { Told } from '../told'
import {
  passExtension,
  statusName,
  uaBytes,
  uaCount,
  uaDataValue,
  uaDiagnostics,
  uaExtension,
  uaNodeId,
  uaQualifiedName,
  uaStatus,
  uaString,
  uaTime,
  uaVariant,
} from './opcuaTypes'

/** OPC UA over TCP: chunks (OPC 10000-6, 6.7.2, 7.1.2) and the services in them (10000-4, 5), as far as they can be read. */

/** Services by the number of the binary encoding of their request; that of the answer is 3 higher. */
const services: Record<number, string> = {
  ...{ 422: 'find servers', 428: 'get endpoints', 437: 'register a server', 446: 'open a secure channel', 452: 'close the secure channel' },
  ...{ 461: 'create a session', 467: 'activate the session', 473: 'close the session', 479: 'cancel', 488: 'add nodes' },
  ...{ 494: 'add references', 500: 'delete nodes', 506: 'delete references', 527: 'browse', 533: 'browse on', 554: 'translate paths' },
  ...{ 560: 'register nodes', 566: 'unregister nodes', 615: 'query', 621: 'query on', 631: 'read', 664: 'read history', 673: 'write' },
  ...{ 700: 'update history', 712: 'call', 751: 'create monitored items', 763: 'modify monitored items', 769: 'set the mode of items' },
  ...{ 775: 'set triggers', 781: 'delete monitored items', 787: 'create a subscription', 793: 'modify the subscription' },
  ...{ 799: 'switch publishing', 826: 'publish', 832: 'publish again', 841: 'transfer subscriptions', 847: 'delete subscriptions' },
}
const faultType = 397
const policyPrefix = 'http://opcfoundation.org/UA/SecurityPolicy#'
const mostNamed = 3

interface Service {
  name: string
  isAnswer: boolean
}

const serviceOf = (type: string): Service | null => {
  const number = Number(/^i=(\d+)$/.exec(type)?.[1] ?? 0)
  if (number === faultType) return { name: 'a fault', isAnswer: true }
  const request = services[number]
  if (request) return { name: request, isAnswer: false }
  const answer = services[number - 3]
  return answer ? { name: answer, isAnswer: true } : null
}

const listed = (all: readonly string[]) =>
  all.slice(0, mostNamed).join(', ') + (all.length > mostNamed ? ` and ${all.length - mostNamed} more` : '')
const each = <T>(frame: FrameReader, name: string, read: () => T): T[] => Array.from({ length: uaCount(frame, name) }, read)

const requestHead = (frame: FrameReader) => {
  // the token of a session proves who somebody is
  uaNodeId(frame, 'token of the session', () => 'not shown')
  uaTime(frame, 'sent at')
  frame.u32le('handle')
  frame.u32le('diagnostics wanted')
  uaString(frame, 'audit entry')
  frame.u32le('patience', (ms) => (ms === 0 ? 'as the server likes' : `${ms} ms`))
  passExtension(frame, 'more')
}

const answerHead = (frame: FrameReader): number => {
  uaTime(frame, 'answered at')
  frame.u32le('handle')
  const status = uaStatus(frame, 'result of the service')
  uaDiagnostics(frame)
  each(frame, 'texts', () => uaString(frame, 'text'))
  passExtension(frame, 'more')
  return status
}

interface Said {
  summary: string
  about?: string
  isRefused?: boolean
}
type Body = (frame: FrameReader) => Said

const attributes: Record<number, string> = { 1: 'node id', 2: 'class', 3: 'browse name', 4: 'display name', 13: '', 14: 'data type' }
const attributeText = (id: number) => attributes[id] ?? `attribute ${id}`

/** A node and which of its attributes (10000-4, 7.29). */
const readValueId = (frame: FrameReader): string => {
  const node = uaNodeId(frame, 'node')
  const attribute = attributeText(frame.u32le('attribute', (id) => attributeText(id) || 'value'))
  uaString(frame, 'range')
  uaQualifiedName(frame, 'encoding')
  return attribute ? `${node} (${attribute})` : node
}

const read: Body = (frame) => {
  frame.f64le('oldest that is taken', (ms) => `${ms} ms`)
  frame.u32le('times wanted')
  const nodes = each(frame, 'nodes', () => readValueId(frame))
  return { summary: `read ${listed(nodes)}`, about: listed(nodes) }
}
const write: Body = (frame) => {
  const items = each(frame, 'nodes', () => {
    const node = uaNodeId(frame, 'node')
    frame.u32le('attribute')
    uaString(frame, 'range')
    return { node, text: uaDataValue(frame).text }
  })
  return { summary: `write ${listed(items.map(({ node, text }) => `${node}: ${text}`))}`, about: listed(items.map(({ node }) => node)) }
}
const browse: Body = (frame) => {
  uaNodeId(frame, 'view')
  uaTime(frame, 'time of the view')
  frame.u32le('version of the view')
  frame.u32le('most references')
  const nodes = each(frame, 'nodes', () => {
    const node = uaNodeId(frame, 'node')
    frame.u32le('direction', (value) => ['forward', 'inverse', 'both'][value] ?? String(value))
    uaNodeId(frame, 'type of reference')
    frame.u8('with subtypes')
    frame.u32le('classes')
    frame.u32le('parts wanted')
    return node
  })
  return { summary: `browse ${listed(nodes)}`, about: listed(nodes) }
}
const call: Body = (frame) => {
  const methods = each(frame, 'methods', () => {
    uaNodeId(frame, 'object')
    const method = uaNodeId(frame, 'method')
    each(frame, 'arguments', () => uaVariant(frame))
    return method
  })
  return { summary: `call ${listed(methods)}`, about: listed(methods) }
}
const createItems: Body = (frame) => {
  const subscription = frame.u32le('subscription')
  frame.u32le('times wanted')
  const items = each(frame, 'items', () => {
    const item = readValueId(frame)
    frame.u32le('mode', (value) => ['off', 'sampling', 'reporting'][value] ?? String(value))
    frame.u32le('handle of the client')
    frame.f64le('sampling interval', (ms) => `${ms} ms`)
    passExtension(frame, 'filter')
    frame.u32le('queue')
    frame.u8('the oldest goes')
    return item
  })
  return { summary: `watch ${listed(items)} in subscription ${subscription}`, about: listed(items) }
}
const createSubscription: Body = (frame) => {
  const interval = frame.f64le('publishing interval', (ms) => `${ms} ms`)
  for (const name of ['lifetime', 'keep-alive', 'most in a message']) frame.u32le(name)
  frame.u8('publishing')
  frame.u8('priority')
  return { summary: `create a subscription of ${interval} ms` }
}
const publish: Body = (frame) => {
  const receipts = each(frame, 'receipts', () => {
    frame.u32le('subscription')
    return frame.u32le('number')
  })
  return { summary: receipts.length > 0 ? `publish, with ${counted(receipts.length, 'receipt')}` : 'publish' }
}
const activate: Body = (frame) => {
  uaString(frame, 'algorithm')
  uaBytes(frame, 'signature')
  frame.rest('who it is', (bytes) => `${counted(bytes.length, 'byte')}, not shown`)
  return { summary: 'activate the session' }
}
const createSession: Body = (frame) => {
  const uri = uaString(frame, 'application')
  frame.rest('the rest', (bytes) => counted(bytes.length, 'byte'))
  return { summary: `create a session for ${uri ?? 'nobody'}` }
}
const openChannel: Body = (frame) => {
  frame.u32le('protocol version')
  const kind = frame.u32le('kind', (value) => (value === 0 ? 'new' : 'renewed'))
  const mode = frame.u32le('mode', (value) => ['', 'None', 'Sign', 'SignAndEncrypt'][value] ?? String(value))
  uaBytes(frame, 'nonce', true)
  const ms = frame.u32le('lifetime', (value) => `${value} ms`)
  return {
    summary: `${kind === 0 ? 'open' : 'renew'} the channel, mode ${['', 'None', 'Sign', 'SignAndEncrypt'][mode] ?? mode}, for ${ms} ms`,
  }
}
const requests: Record<string, Body> = {
  ...{ read, write, browse, call, publish, 'create monitored items': createItems, 'create a subscription': createSubscription },
  ...{ 'activate the session': activate, 'create a session': createSession, 'open a secure channel': openChannel },
}

const worstOf = (what: string, codes: readonly number[], text: string): Said => {
  const bad = codes.filter((code) => severityOf(code) === 'bad')
  if (bad.length === 0) return { summary: text }
  return { summary: `${bad.length} of ${counted(codes.length, what)} ${statusName(bad[0]!)}`, isRefused: true }
}
const readAnswer: Body = (frame) => {
  const values = each(frame, 'results', () => uaDataValue(frame))
  return worstOf(
    'value',
    values.map(({ status }) => status),
    values.length === 1 ? values[0]!.text : counted(values.length, 'value'),
  )
}
const statuses =
  (what: string, text: string): Body =>
  (frame) => {
    const codes = each(frame, 'results', () => uaStatus(frame, 'result'))
    return worstOf(what, codes, `${text}, ${counted(codes.length, what)}`)
  }
const itemsAnswer: Body = (frame) => {
  const codes = each(frame, 'results', () => {
    const code = uaStatus(frame, 'result')
    frame.u32le('number of the item')
    frame.f64le('sampling interval', (ms) => `${ms} ms`)
    frame.u32le('queue')
    passExtension(frame, 'filter')
    return code
  })
  return worstOf('item', codes, `watched, ${counted(codes.length, 'item')}`)
}
const subscriptionAnswer: Body = (frame) => ({ summary: `subscription ${frame.u32le('subscription')}` })

/** Of what a notification is, by the number of its binary encoding. */
const notifications: Record<string, 'values' | 'events' | 'status'> = { 'i=811': 'values', 'i=916': 'events', 'i=820': 'status' }

const publishAnswer: Body = (frame) => {
  const subscription = frame.u32le('subscription')
  each(frame, 'numbers still kept', () => frame.u32le('number'))
  frame.u8('more follow')
  const number = frame.u32le('number')
  uaTime(frame, 'published at')
  const parts: Said[] = each(frame, 'notifications', () => notification(frame))
  if (parts.length === 0) return { summary: `alive, subscription ${subscription}, next ${number}` }
  return {
    summary: `${parts.map(({ summary }) => summary).join(', ')} of subscription ${subscription}`,
    isRefused: parts.some(({ isRefused }) => isRefused),
  }
}

const notification = (frame: FrameReader): Said => {
  const { type, end } = uaExtension(frame, 'notification')
  const back = frame.within(end - frame.at)
  const what = notifications[type]
  let said: Said = { summary: 'a notification' }
  if (what === 'values') {
    const values = each(frame, 'items', () => {
      frame.u32le('handle of the client')
      return uaDataValue(frame)
    })
    said = { summary: values.length === 1 ? `changed: ${values[0]!.text}` : `${counted(values.length, 'change')}` }
  } else if (what === 'events') said = { summary: 'events' }
  else if (what === 'status') {
    const code = uaStatus(frame, 'status of the subscription')
    said = { summary: `the subscription is ${statusName(code)}`, isRefused: severityOf(code) === 'bad' }
  }
  if (frame.at < end) frame.data('the rest', end - frame.at)
  back()
  return said
}

const answers: Record<string, Body> = {
  ...{ read: readAnswer, write: statuses('node', 'written'), 'create monitored items': itemsAnswer },
  ...{ 'create a subscription': subscriptionAnswer, 'modify monitored items': itemsAnswer, publish: publishAnswer },
  ...{ 'delete monitored items': statuses('item', 'no longer watched'), 'delete subscriptions': statuses('subscription', 'ended') },
}

const service = (frame: FrameReader, { name, isAnswer }: Service): Said => {
  if (!isAnswer) {
    requestHead(frame)
    return requests[name]?.(frame) ?? rest(frame, name)
  }
  const status = answerHead(frame)
  if (severityOf(status) === 'bad') {
    frame.rest('the rest')
    return { summary: `${name === 'a fault' ? '' : `${name}: `}${statusName(status)}`, isRefused: true }
  }
  return answers[name]?.(frame) ?? rest(frame, `${name}: done`)
}

const rest = (frame: FrameReader, summary: string): Said => {
  frame.rest('the rest')
  return { summary }
}

/** A message in one chunk, or the first of several; what cannot be read is secured, or goes on from a chunk before. */
const message = (frame: FrameReader, fromClient: boolean, isWhole: boolean): Told => {
  frame.u32le('number of the chunk')
  const key = `r${frame.u32le('number of the request')}`
  const type = uaNodeId(frame, 'what it is')
  const known = serviceOf(type)
  if (!known || known.isAnswer === fromClient) throw new NotReadable()
  const about = { key, call: known.name, role: known.isAnswer ? 'answer' : 'request' } as const
  if (!isWhole) {
    frame.rest('the beginning')
    return { ...about, summary: `${known.name}, in several chunks`, about: '', outcome: 'fine' }
  }
  const said = service(frame, known)
  return {
    ...{ ...about, summary: said.summary, about: said.about ?? '', outcome: said.isRefused ? 'refused' : 'fine' },
    ...(known.name === 'publish' && !known.isAnswer ? { isPatient: true } : {}),
  }
}

class NotReadable extends Error {}

const secured = (frame: FrameReader, fromClient: boolean, isWhole: boolean): Told => {
  const [at, count] = [frame.at, frame.fields.length]
  try {
    return message(frame, fromClient, isWhole)
  } catch (error) {
    if (!(error instanceof NotReadable) && !(error instanceof TooShort && !isReadable(frame, at))) throw error
    frame.at = at
    frame.fields.length = count
    const { left } = frame
    frame.rest('secured, or part of something longer')
    return piece(`${counted(left, 'byte')}, secured or part of something longer`, { outcome: 'fine', role: 'notice' })
  }
}

/** Whether what stands after the numbers is the node id of a service: then it is readable, and ends too early. */
const isReadable = ({ bytes }: FrameReader, at: number) => bytes[at + 8] === 1 && bytes[at + 9] === 0

const reading: Reading = (frame, fromClient) => {
  if (frame.left < 8) throw new TooShort()
  const kind = frame.text('kind', 3)
  const part = frame.text('chunk', 1, (text) => ({ F: 'the last', C: 'more follow', A: 'given up' })[text] ?? text)
  frame.u32le('length', (value) => counted(value, 'byte'))
  switch (kind) {
    case 'HEL':
      for (const name of ['version', 'buffer to receive', 'buffer to send', 'longest message', 'most chunks']) frame.u32le(name)
      return {
        summary: `hello to ${uaString(frame, 'address') ?? 'nobody'}`,
        role: 'request',
        key: 'hello',
        about: '',
        call: 'hello',
        outcome: 'fine',
      }
    case 'ACK':
      for (const name of ['version', 'buffer to receive', 'buffer to send', 'longest message', 'most chunks']) frame.u32le(name)
      return { summary: 'hello too', role: 'answer', key: 'hello', about: '', call: 'hello', outcome: 'fine' }
    case 'ERR': {
      const code = uaStatus(frame, 'error')
      const reason = uaString(frame, 'reason')
      return { ...piece(`${statusName(code)}${reason ? `: ${reason}` : ''}`), role: 'answer', key: 'hello', outcome: 'refused' }
    }
    case 'OPN': {
      frame.u32le('channel')
      const policy = (uaString(frame, 'policy') ?? '').replace(policyPrefix, '')
      uaBytes(frame, 'certificate')
      uaBytes(frame, 'for the certificate')
      if (policy === 'None') return message(frame, fromClient, part === 'F')
      frame.rest('secured')
      const summary = fromClient ? `open the channel, ${policy}, secured` : `channel opened, ${policy}, secured`
      return { summary, role: fromClient ? 'request' : 'answer', key: 'channel', about: '', call: 'open a secure channel', outcome: 'fine' }
    }
    case 'MSG':
    case 'CLO':
      frame.u32le('channel')
      frame.u32le('token')
      return secured(frame, fromClient, part === 'F')
    default:
      frame.rest('bytes')
      return piece('bytes that are no chunk of OPC UA')
  }
}

export const opcuaDecoder = decoderOf(reading)

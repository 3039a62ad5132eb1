import { securityNone, uaTcp, Writer, type Reader } from './bytes'
import type { PlainServer } from './plainServer'
import { objectClass, variableClass, type Reference } from './space'
import { status } from './status'
import type { Subscriptions } from './subscriptions'
import { readDataValue, writeDataValue } from './values'

export interface Session {
  token: string
  subscriptions: Subscriptions
  /** References still to be given, by continuation point. */
  left: Map<string, Reference[]>
  lastLeft: number
}

interface Asked {
  server: PlainServer
  reader: Reader
  session: Session
  /** With what follows the response's header, or the status that refuses the request. */
  done(outcome: Buffer | number): void
}

interface Service {
  name: string
  response: string
  inSession: boolean
  answer(asked: Asked): void
}

const application = (writer: Writer, url: string) =>
  writer
    .string('urn:port:plain')
    .string('urn:port:plain')
    .localizedText('Plain server')
    .uint32(0)
    .string(null)
    .string(null)
    .list([url], (one) => writer.string(one))

/** EndpointDescription (OPC 10000-4, 7.14): unsecured; anonymous, or by a name and a password in clear. */
const endpoint = (writer: Writer, url: string) => {
  writer.string(url)
  application(writer, url).byteString(null).uint32(1).string(securityNone)
  writer.uint32(2)
  writer.string('anonymous').uint32(0).string(null).string(null).string(null)
  writer.string('by name').uint32(1).string(null).string(null).string(securityNone)
  writer.string(uaTcp).bytes(0)
}

const endpoints = ({ server, done }: Asked) => {
  const writer = new Writer().list([server.url], (url, writer) => endpoint(writer, url))
  done(writer.done())
}

const createSession = ({ server, done }: Asked) => {
  const session = server.newSession()
  if (!session) return done(status.BadTooManySessions)
  const writer = new Writer().nodeId(session.token).nodeId(session.token).double(600_000).byteString(Buffer.alloc(32, 7)).byteString(null)
  writer.list([server.url], (url) => endpoint(writer, url)).none()
  done(writer.string(null).byteString(null).uint32(0).done())
}

const activateSession = ({ done }: Asked) => done(new Writer().byteString(Buffer.alloc(32, 8)).none().none().done())

const closeSession = ({ server, session, done }: Asked) => {
  server.endSession(session.token)
  done(Buffer.alloc(0))
}

const readNode = (reader: Reader) => {
  const [nodeId, attribute] = [reader.nodeId(), reader.uint32()]
  reader.string()
  return { nodeId, attribute }
}

const read = ({ server, reader, done }: Asked) => {
  reader.double()
  reader.uint32()
  const nodes = reader.list(() => {
    const node = readNode(reader)
    reader.qualifiedName()
    return node
  })
  if (nodes.length > server.habits.takes.read) return done(status.BadTooManyOperations)
  const writer = new Writer().list(nodes, ({ nodeId, attribute }, writer) => writeDataValue(writer, server.space.read(nodeId, attribute)))
  done(writer.none().done())
}

const write = ({ server, reader, done }: Asked) => {
  const wanted = reader.list(() => ({ ...readNode(reader), data: readDataValue(reader) }))
  if (wanted.length > server.habits.takes.write) return done(status.BadTooManyOperations)
  const writer = new Writer().list(wanted, ({ nodeId, data }, writer) => {
    const node = server.space.find(nodeId)
    if (!node?.variant) return writer.uint32(status.BadNodeIdUnknown)
    if (!node.writable) return writer.uint32(status.BadNotWritable)
    if (node.refusesWrites !== undefined) return writer.uint32(node.refusesWrites)
    if (node.variant.type !== data.variant?.type) return writer.uint32(status.BadTypeMismatch)
    node.variant = data.variant
    writer.uint32(status.Good)
  })
  done(writer.none().done())
}

/** ReferenceDescription (OPC 10000-4, 7.29). */
const reference = (writer: Writer, { type, node }: Reference, outward: (id: string) => string) => {
  writer.nodeId(type).bool(true).nodeId(outward(node.id)).qualifiedName(node.name, 1).localizedText(node.name)
  writer.uint32(node.variant ? variableClass : objectClass).nodeId(node.variant ? 'i=63' : 'i=61')
}

const browseResult = (writer: Writer, code: number, point: string | null, given: readonly Reference[], outward: (id: string) => string) =>
  writer
    .uint32(code)
    .string(point)
    .list(given, (one) => reference(writer, one, outward))

/** As many references as go into one answer; where there are more, a point to go on from, if there is one left. */
const giveSome = ({ server, session }: Asked, all: readonly Reference[], most: number, writer: Writer) => {
  const outward = (id: string) => server.space.outward(id)
  const atOnce = Math.min(most || Infinity, server.habits.referencesAtOnce)
  if (all.length <= atOnce) return browseResult(writer, status.Good, null, all, outward)
  if (session.left.size >= server.habits.continuationPoints) return browseResult(writer, status.BadNoContinuationPoints, null, [], outward)
  const point = `point ${++session.lastLeft}`
  session.left.set(point, all.slice(atOnce))
  return browseResult(writer, status.Good, point, all.slice(0, atOnce), outward)
}

const forward = 0
/** The plain server keeps its nodes by one kind of reference; others are followed to nothing. */
const givenBy = (type: string, withSubtypes: boolean) => type === 'i=35' || (withSubtypes && ['i=33', 'i=31', 'i=0'].includes(type))

const browse = (asked: Asked) => {
  const { server, reader, done } = asked
  reader.nodeId()
  reader.int64()
  reader.uint32()
  const most = reader.uint32()
  const wanted = reader.list(() => {
    const [nodeId, direction, type, withSubtypes] = [reader.nodeId(), reader.uint32(), reader.nodeId(), reader.bool()]
    reader.uint32()
    reader.uint32()
    return { nodeId, isGiven: direction === forward && givenBy(type, withSubtypes) }
  })
  if (wanted.length > server.habits.takes.browse) return done(status.BadTooManyOperations)
  const writer = new Writer().list(wanted, ({ nodeId, isGiven }, writer) => {
    const node = server.space.find(nodeId)
    if (!node) return browseResult(writer, status.BadNodeIdUnknown, null, [], String)
    return giveSome(asked, isGiven ? server.space.children(node.id) : [], most, writer)
  })
  done(writer.none().done())
}

const browseNext = (asked: Asked) => {
  const { session, reader, server, done } = asked
  const release = reader.bool()
  const points = reader.list(() => reader.string() ?? '')
  if (points.length > server.habits.takes.browse) return done(status.BadTooManyOperations)
  const writer = new Writer().list(points, (point, writer) => {
    const left = session.left.get(point)
    session.left.delete(point)
    if (!left) return browseResult(writer, status.BadContinuationPointInvalid, null, [], String)
    return release ? browseResult(writer, status.Good, null, [], String) : giveSome(asked, left, 0, writer)
  })
  done(writer.none().done())
}

const translate = ({ server, reader, done }: Asked) => {
  const paths = reader.list(() => {
    const start = reader.nodeId()
    const names = reader.list(() => {
      reader.nodeId()
      reader.bool()
      reader.bool()
      return reader.qualifiedName().name
    })
    return { start, names }
  })
  if (paths.length > server.habits.takes.translate) return done(status.BadTooManyOperations)
  const writer = new Writer().list(paths, ({ start, names }, writer) => {
    let at = server.space.find(start)
    for (const name of names) at = at && server.space.children(at.id).find(({ node }) => node.name === name)?.node
    writer.uint32(at ? status.Good : status.BadNoMatch)
    writer.list(at ? [at] : [], ({ id }) => writer.nodeId(server.space.outward(id)).uint32(0xffffffff))
  })
  done(writer.none().done())
}

const publish = ({ session, done }: Asked) => session.subscriptions.ask(done)

type BySubscriptions = 'create' | 'watch' | 'unwatch' | 'remove' | 'setPublishing'
const subscriptions =
  (method: BySubscriptions) =>
  ({ session, reader, done }: Asked) =>
    done(session.subscriptions[method](reader))

/** By the NodeId of the request's binary encoding (OPC 10000-6, A.1). */
export const services: Record<string, Service | undefined> = {
  'i=428': { name: 'GetEndpoints', response: 'i=431', inSession: false, answer: endpoints },
  'i=461': { name: 'CreateSession', response: 'i=464', inSession: false, answer: createSession },
  'i=467': { name: 'ActivateSession', response: 'i=470', inSession: true, answer: activateSession },
  'i=473': { name: 'CloseSession', response: 'i=476', inSession: true, answer: closeSession },
  'i=527': { name: 'Browse', response: 'i=530', inSession: true, answer: browse },
  'i=533': { name: 'BrowseNext', response: 'i=536', inSession: true, answer: browseNext },
  'i=554': { name: 'TranslateBrowsePaths', response: 'i=557', inSession: true, answer: translate },
  'i=631': { name: 'Read', response: 'i=634', inSession: true, answer: read },
  'i=673': { name: 'Write', response: 'i=676', inSession: true, answer: write },
  'i=751': { name: 'CreateMonitoredItems', response: 'i=754', inSession: true, answer: subscriptions('watch') },
  'i=781': { name: 'DeleteMonitoredItems', response: 'i=784', inSession: true, answer: subscriptions('unwatch') },
  'i=787': { name: 'CreateSubscription', response: 'i=790', inSession: true, answer: subscriptions('create') },
  'i=799': { name: 'SetPublishingMode', response: 'i=802', inSession: true, answer: subscriptions('setPublishing') },
  'i=826': { name: 'Publish', response: 'i=829', inSession: true, answer: publish },
  'i=847': { name: 'DeleteSubscriptions', response: 'i=850', inSession: true, answer: subscriptions('remove') },
}

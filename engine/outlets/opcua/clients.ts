import {
  ReadResponse,
  WriteResponse,
  PublishResponse,
  CreateMonitoredItemsResponse,
  DataChangeNotification,
  type OPCUAServer,
  type Request,
  type Response,
  type ServerSession,
  type StatusCode,
} from 'node-opcua'
import type { Caller } from '#core/calls/call'
import { statusWords } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import type { ClientStatus } from '#shared/status'
import { isWithin } from '#pacing/clock'
import { wasJustRefused } from '../doors/flow'
import type { Guests } from './guests'
import { sessionsOf } from '../../opcua/internals'

interface Asked {
  text: string
  at: number
  got: string
  refused: { text: string; at: number } | null
}

/** Requests in the words of a person; what is not listed shows by its standard name. */
const requestText: Record<string, string> = {
  PublishRequest: 'took notifications',
  ReadRequest: 'read',
  WriteRequest: 'wrote',
  BrowseRequest: 'browsed',
  BrowseNextRequest: 'browsed',
  CreateMonitoredItemsRequest: 'added items',
  DeleteMonitoredItemsRequest: 'took items out',
  CreateSubscriptionRequest: 'subscribed',
  ActivateSessionRequest: 'signed in',
  TranslateBrowsePathsToNodeIdsRequest: 'looked a path up',
}

/** Who is connected, from where, as whom, and what each asked last. */
export class ClientBook {
  private asked = new WeakMap<ServerSession, Asked>()
  /** Whose request a response answers: request handles of each channel. */
  private open = new WeakMap<object, Map<number, ServerSession>>()

  constructor(
    private server: OPCUAServer,
    private guests: Guests,
  ) {
    server.on('request', (request, channel) => this.note(request, channel))
    server.on('response', (response, channel) => this.noteAnswer(response, channel))
  }

  list(): ClientStatus[] {
    return sessionsOf(this.server).map((session) => this.describe(session))
  }

  disconnect(id: string): boolean {
    const session = sessionsOf(this.server).find((candidate) => candidate.nodeId.toString() === id)
    if (!session) return false
    const channel = session.channel
    this.server.engine.closeSession(session.authenticationToken, true, 'Terminated')
    channel?.close()
    return true
  }

  /** Ends whoever came as somebody who is no more, or whose rights are others now. @param change makes it so. */
  endChanged(change: () => void) {
    const marks = sessionsOf(this.server).map((session) => ({ session, mark: this.guests.guestWith(session.userIdentityToken)?.mark }))
    change()
    for (const { session, mark } of marks)
      if (mark !== undefined && this.guests.guestWith(session.userIdentityToken)?.mark !== mark) this.disconnect(session.nodeId.toString())
  }

  /** Who a session is. @param from where its request came from */
  callerOf(session: ServerSession, from: string): Caller {
    return { name: nameOf(session), from, as: this.guests.guestWith(session.userIdentityToken)?.name ?? 'not signed in' }
  }

  /** By which name a client goes, and what it came in as; null: it has no session. */
  whoAsks(request: Request) {
    const session = this.sessionOf(request)
    return session ? { name: nameOf(session), guest: this.guests.guestWith(session.userIdentityToken) } : null
  }

  /** Ends whoever came with a certificate that is no longer good enough. */
  endUntrusted(isTrusted: (der: Buffer) => boolean) {
    for (const session of sessionsOf(this.server)) {
      const certificate = session.channel?.clientCertificate
      if (certificate && !isTrusted(certificate)) this.disconnect(session.nodeId.toString())
    }
  }

  private describe(session: ServerSession): ClientStatus {
    const asked = this.asked.get(session)
    return {
      id: session.nodeId.toString(),
      name: nameOf(session),
      from: session.channel?.remoteAddress ?? 'connection lost',
      identity: this.guests.guestWith(session.userIdentityToken)?.name ?? 'not signed in yet',
      security: securityOf(session),
      since: session.creationDate.getTime(),
      items: session.currentMonitoredItemCount,
      ...askedOf(asked ?? { text: 'connected', at: session.creationDate.getTime(), got: '', refused: null }),
    }
  }

  private note(request: Request, channel: object) {
    const session = this.sessionOf(request)
    if (!session) return
    const name = request.constructor.name
    const text = requestText[name] ?? name.replace(/Request$/, '')
    const before = this.asked.get(session)
    // an answer to “publish” may belong to an earlier request of that kind
    const got = before?.text === text ? before.got : ''
    this.asked.set(session, { text, at: Date.now(), got, refused: before?.refused ?? null })
    const open = this.open.get(channel) ?? new Map<number, ServerSession>()
    this.open.set(channel, open)
    open.set(request.requestHeader.requestHandle, session)
  }

  private noteAnswer(response: Response, channel: object) {
    const { requestHandle, serviceResult } = response.responseHeader
    const open = this.open.get(channel)
    const session = open?.get(requestHandle)
    open?.delete(requestHandle)
    const asked = session && this.asked.get(session)
    if (!asked) return
    asked.got = serviceResult.isGood() ? gotIn(response) : statusWords(serviceResult.name)
    const refusal = serviceResult.isGood() ? refusalIn(response) : serviceResult
    if (refusal) asked.refused = { text: `${asked.text}: ${statusWords(refusal.name)}`, at: Date.now() }
  }

  private sessionOf(request: Request): ServerSession | null {
    return this.server.engine.getSession(request.requestHeader.authenticationToken)
  }
}

const nameOf = (session: ServerSession) => session.clientDescription?.applicationName?.text || session.sessionName || 'unnamed client'

const statusesIn = (response: Response): StatusCode[] => {
  if (response instanceof ReadResponse) return (response.results ?? []).map(({ statusCode }) => statusCode)
  if (response instanceof WriteResponse) return response.results ?? []
  if (response instanceof CreateMonitoredItemsResponse) return (response.results ?? []).map(({ statusCode }) => statusCode)
  return []
}

const gotIn = (response: Response): string => {
  if (response instanceof PublishResponse) return counted(changesIn(response), 'change')
  const statuses = statusesIn(response)
  if (statuses.length === 0) return ''
  const bad = statuses.filter((status) => status.isBad()).length
  return bad === 0 ? counted(statuses.length, 'value') : `${statuses.length - bad} of ${counted(statuses.length, 'value')}`
}

const changesIn = ({ notificationMessage }: PublishResponse) =>
  (notificationMessage.notificationData ?? []).reduce(
    (total, data) => total + (data instanceof DataChangeNotification ? (data.monitoredItems?.length ?? 0) : 1),
    0,
  )

/** A value of bad quality is an answer, too; what the server itself refuses is not. */
const ownRefusals = /^BadNodeId|^BadUserAccess|^BadNot(Readable|Writable)|^BadTypeMismatch|^BadOutOfRange|^BadAttribute|^BadTooMany/
const refusalIn = (response: Response): StatusCode | undefined => statusesIn(response).find(({ name }) => ownRefusals.test(name))

const securityOf = (session: ServerSession) => {
  const policy = session.channel?.securityPolicy?.split('#')[1]
  return !policy || policy === 'None' ? 'not secured' : policy
}

/** A client of OPC UA asks all the time, be it for notifications. */
const quietMs = 30_000
const askedOf = ({ text, at, got, refused }: Asked) => ({
  flow: isWithin(quietMs, at) && !wasJustRefused(refused) ? ('flowing' as const) : ('late' as const),
  ...{ lastAsked: text, lastAskedAt: at, lastGot: got, refused },
})

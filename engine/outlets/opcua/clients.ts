import type { OPCUAServer, Request, Response, ServerSession, WriteResponse } from 'node-opcua'
import { UserTokenType } from 'node-opcua'
import type { ClientStatus } from '#shared/status'

interface Asked {
  text: string
  at: number
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

  constructor(private server: OPCUAServer) {
    server.on('request', (request) => this.note(request))
    server.on('response', (response, channel) => this.noteRefusal(response, channel))
  }

  list(): ClientStatus[] {
    return this.sessions().map((session) => this.describe(session))
  }

  disconnect(id: string): boolean {
    const session = this.sessions().find((candidate) => candidate.nodeId.toString() === id)
    if (!session) return false
    const channel = session.channel
    this.server.engine.closeSession(session.authenticationToken, true, 'Terminated')
    channel?.close()
    return true
  }

  /** Ends whoever came with a certificate that is no longer good enough. */
  endUntrusted(isTrusted: (der: Buffer) => boolean) {
    for (const session of this.sessions()) {
      const certificate = session.channel?.clientCertificate
      if (certificate && !isTrusted(certificate)) this.disconnect(session.nodeId.toString())
    }
  }

  private sessions(): ServerSession[] {
    return Object.values((this.server.engine as unknown as { _sessions: Record<string, ServerSession> })._sessions)
  }

  private describe(session: ServerSession): ClientStatus {
    const asked = this.asked.get(session)
    const application = session.clientDescription?.applicationName?.text
    return {
      id: session.nodeId.toString(),
      name: application || session.sessionName || 'unnamed client',
      from: session.channel?.remoteAddress ?? 'connection lost',
      identity: identityOf(session),
      security: securityOf(session),
      since: session.creationDate.getTime(),
      items: session.currentMonitoredItemCount,
      lastAsked: asked?.text ?? 'connected',
      lastAskedAt: asked?.at ?? session.creationDate.getTime(),
    }
  }

  private note(request: Request) {
    const session = this.sessionOf(request)
    const name = request.constructor.name
    if (session) this.asked.set(session, { text: requestText[name] ?? name.replace(/Request$/, ''), at: Date.now() })
  }

  private noteRefusal(response: Response, channel: ServerSession['channel']) {
    if (response.constructor.name !== 'WriteResponse') return
    const refused = (response as WriteResponse).results?.find((status) => !status.isGood())
    const session = this.sessions().find((candidate) => candidate.channel === channel)
    const asked = session && this.asked.get(session)
    if (refused && asked) asked.text = `wrote: ${refused.name}`
  }

  private sessionOf(request: Request): ServerSession | null {
    return this.server.engine.getSession(request.requestHeader.authenticationToken)
  }
}

const identityOf = (session: ServerSession) => {
  const token = session.userIdentityToken as { userName?: string; schema?: { name: string } } | undefined
  if (token?.userName) return token.userName
  return token?.schema?.name === 'X509IdentityToken' ? 'certificate' : UserTokenType[UserTokenType.Anonymous]!.toLowerCase()
}

const securityOf = (session: ServerSession) => {
  const policy = session.channel?.securityPolicy?.split('#')[1]
  return !policy || policy === 'None' ? 'not secured' : policy
}

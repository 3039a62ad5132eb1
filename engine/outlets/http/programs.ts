import type { Socket } from 'node:net'
import { CallSource } from '#core/calls/callBook'
import type { ClientStatus } from '#shared/status'
import { duration } from '#core/text/duration'
import { wasJustRefused } from '../doors/flow'
import { withoutName } from './guests'

/** A program is one who asks by a name from an address; it is remembered so long after it asked last. */
const rememberedMs = 300_000
const mostRemembered = 1000
/** Requests are counted for so long, so that none may ask more often than is allowed. */
const minuteMs = 60_000

interface Program {
  id: string
  name: string
  /** What it says it is. */
  agent: string
  from: string
  security: string
  since: number
  lastAsked: string
  lastAskedAt: number
  lastGot: { status: number; ms: number } | null
  refused: { text: string; at: number } | null
  sockets: Set<Socket>
  source: CallSource
  /** What is left of the requests that it may make, and when that was so. */
  left: number
  leftAt: number
}

interface Come {
  id: string
  wait: number
  source: CallSource
}

/** Who asks at an HTTP server, what, and what came of it. */
export class Programs {
  private known = new Map<string, Program>()

  constructor(private perMinute: () => number) {}

  /** Takes note of a request. How long the next has to wait, s; 0: it may go on. */
  come({ name, from, agent = '' }: { name: string; from: string; agent?: string | undefined }, socket: Socket, isSecured: boolean): Come {
    const now = Date.now()
    const id = `${name} ${from}`
    const program = this.known.get(id) ?? this.remember(id, name, from, agent, isSecured, now)
    program.lastAskedAt = now
    program.agent = agent.slice(0, 60)
    if (!program.sockets.has(socket)) {
      program.sockets.add(socket)
      socket.once('close', () => program.sockets.delete(socket))
    }
    return { id, wait: this.take(program, now), source: program.source }
  }

  note(id: string, asked: string, got: { status: number; ms: number }, refusal: string | null) {
    const program = this.known.get(id)
    if (!program) return
    program.lastAsked = asked
    program.lastGot = got
    if (refusal !== null) program.refused = { text: refusal, at: Date.now() }
  }

  status(items: (id: string) => number, isFollowing: (id: string) => boolean): ClientStatus[] {
    this.forgetOld(isFollowing)
    return [...this.known.values()].map((one) => ({
      id: one.id,
      name: one.name === withoutName ? one.agent || one.from : one.name,
      ...{ from: one.from, identity: one.name, security: one.security, since: one.since },
      flow: wasJustRefused(one.refused) ? ('late' as const) : ('flowing' as const),
      items: items(one.id),
      ...{ lastAsked: one.lastAsked, lastAskedAt: one.lastAskedAt, lastGot: gotText(one.lastGot), refused: one.refused },
    }))
  }

  /** Ends its connections. Whether there was such a one. */
  disconnect(id: string): boolean {
    const program = this.known.get(id)
    for (const socket of program?.sockets ?? []) socket.destroy()
    return this.known.delete(id)
  }

  private remember(id: string, name: string, from: string, agent: string, isSecured: boolean, now: number): Program {
    const program: Program = {
      ...{
        id,
        name,
        from,
        agent: '',
        security: isSecured ? 'TLS' : 'not encrypted',
        since: now,
        lastAsked: '',
        lastAskedAt: now,
        lastGot: null,
      },
      source: new CallSource({ name: nameFor(name, agent, from), from, as: name }),
      ...{ refused: null, sockets: new Set(), left: this.perMinute(), leftAt: now },
    }
    if (this.known.size >= mostRemembered) this.known.delete(this.known.keys().next().value!)
    this.known.set(id, program)
    return program
  }

  /** What may be asked comes back steadily, up to what is allowed in a minute. */
  private take(program: Program, now: number): number {
    const most = this.perMinute()
    program.left = Math.min(most, program.left + ((now - program.leftAt) / minuteMs) * most)
    program.leftAt = now
    if (program.left < 1) return Math.max(1, Math.ceil(((1 - program.left) / most) * 60))
    program.left--
    return 0
  }

  private forgetOld(isFollowing: (id: string) => boolean) {
    const before = Date.now() - rememberedMs
    for (const [id, { lastAskedAt }] of this.known) if (lastAskedAt < before && !isFollowing(id)) this.known.delete(id)
  }
}

/** Who gives no name goes by what its program says it is. */
const nameFor = (name: string, agent: string, from: string) =>
  name === withoutName || name === 'nobody' ? agent.slice(0, 60) || from : name

const gotText = (got: Program['lastGot']): string => (got ? `${got.status} in ${duration(got.ms)}` : '')

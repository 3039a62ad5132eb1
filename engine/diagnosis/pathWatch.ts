import type { Circumstances } from '#core/diagnosis/changes'
import type { PointFacts } from '#core/diagnosis/point'
import { isFromOther } from '#core/diagnosis/rules/greeted'
import { routeText } from '#core/diagnosis/words'
import { fault } from '#core/faults/catalogue'
import { Mask } from '#core/handover/mask'
import { secretsIn } from '#core/handover/secretsIn'
import { hasPoints, protocolOf } from '#core/links/registry'
import type { Bridge } from '#shared/bridges/bridge'
import type { CheckPart, PathKind, PathRecord, Verdict } from '#shared/diagnosis'
import type { CaseFacts } from '#shared/handover'
import type { LinkDraft } from '#shared/links/link'
import type { CheckStep, FarSide } from '#shared/status'
import type { BridgeRunner } from '../bridges/bridgeRunner'
import type { Engine } from '../engine'
import type { LinkRunner } from '../links/linkRunner'
import type { OutletRunner } from '../outlets/outletRunner'
import type { TableUse } from '../links/driver'
import { driverOf } from '../links/registry'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Security } from '../trust/security'
import { ownInterfaces } from '../wire/interfaces'
import type { Piece } from '../wire/recall'
import { Wire } from '../wire/wire'
import { bridgeSteps } from './bridgeWay'
import { Following, type FollowedPath } from './following'
import { untilFresh } from './freshness'
import { untilSteady } from './steadiness'
import { outletSteps } from './outletWay'
import type { PathBook } from './pathBook'
import { neighbourAt, routeTo } from './probes'
import { linkUnder, tagSteps } from './tagWay'
import { addressOf, passed, walked, type Found, type KnownPath } from './walk'

type Why = PathRecord['why']
type Steps = AsyncGenerator<CheckStep>
type Parts = AsyncGenerator<CheckPart>

interface Around {
  engine: Engine
  security: Security
  book: PathBook
}

/** What protocols carry as secrets goes also where none is known; whoever makes a pack knows the others. */
const nothingKnown = new Mask([])

const opened = (seal: Security['seal'], sealed: string): string | null => {
  try {
    return seal.open(sealed)
  } catch {
    return null
  }
}

/** Checks paths: those that somebody asks for, and by itself those that broke. */
export class PathWatch {
  private following: Following
  /** Wall clock minus the clock that nobody sets. */
  private readonly clockBase = Date.now() - performance.now()

  constructor(private around: Around) {
    const { book, engine } = around
    engine.walkLink = (id, signal) => {
      const link = engine.link(id)
      return link ? this.walkLink(id, link, signal, 'asked') : null
    }
    this.following = new Following({
      paths: () => this.followed(),
      goodBefore: (of, id) => book.goodOf(of, id)?.at ?? null,
      gone: (of, id) => book.forget(of, id),
    })
  }

  /** Settings as somebody has them on a sheet: over the connection at hand where they are in force. Nothing of it is kept. */
  checkSheet(draft: LinkDraft, linkId: number | null, signal: AbortSignal): Parts {
    const runner = linkId === null ? undefined : this.around.engine.link(linkId)
    if (linkId === null || !runner?.has(draft.settings)) return this.checkDraft(draft, linkId, signal)
    return this.walkedOver(runner, linkId, runner.check(draft.settings, signal) ?? this.dialled(draft, linkId, signal, runner.wire), true)
  }

  /** The path of a link as it is, to the end, and kept. */
  walkLink(id: number, runner: LinkRunner, signal: AbortSignal, why: Why): Parts {
    const { draft } = runner
    // a connection that just broke tells less than a new one
    const isLost = why === 'failure' && runner.flow === 'broken'
    const steps = (isLost ? null : runner.check(draft.settings, signal)) ?? this.dialled(draft, id, signal, runner.wire)
    const { breaks } = this.following.of('link', id)
    const fresh = hasPoints(draft.kind) ? untilFresh(steps, runner) : steps
    const whole = untilSteady(fresh, { name: runner.name, breaks })
    return this.recorded(this.walkedOver(runner, id, whole, why === 'asked'), { of: 'link', id, why, signal })
  }

  /** How far the value of a tag comes, and to whom. */
  walkTag(tag: RegisteredTag, signal: AbortSignal): Parts {
    const { engine } = this.around
    const under = linkUnder(engine, tag)
    const link = under === null ? undefined : engine.link(under)
    let point: PointFacts | null = null
    const steps = tagSteps(tag, {
      engine,
      linkSteps: (id, runner) => this.linkSteps(id, runner, signal),
      found: (facts) => (point = facts),
    })
    const more = () => (point ? { point } : {})
    const parts = link && under !== null ? this.walkedOver(link, under, steps, true, more) : walked(steps, this.without(more))
    return this.recorded(parts, { of: 'tag', id: tag.id, why: 'asked', signal })
  }

  /** The way of a bridge’s records, from what sets it off to the receipts. */
  walkBridge(bridge: Bridge, runner: BridgeRunner, signal: AbortSignal, why: Why): Parts {
    const { engine } = this.around
    const steps = bridgeSteps(bridge, runner, { engine, linkSteps: (id, link, uses) => this.linkSteps(id, link, signal, uses) })
    const goalOf: KnownPath['goalOf'] = ({ about, joint }) => {
      const link = about?.subject === 'link' && (joint === 'link' || joint === 'receiver') ? engine.link(about.id) : undefined
      return link ? protocolOf(link.kind).goal(link.draft.settings) : null
    }
    const { lastGood, breaks } = this.following.of('bridge', bridge.id)
    return this.recorded(walked(steps, { ...this.without(), goalOf, lastGood, breaks }), { of: 'bridge', id: bridge.id, why, signal })
  }

  /** An outlet from the inside out: one of its entries, or all of them. */
  walkOutlet(id: number, outlet: OutletRunner, signal: AbortSignal, why: Why, entry: Steps | null = null): Parts {
    const { lastGood, breaks } = this.following.of('outlet', id)
    const known = { ...this.without(), goalOf: () => outlet.goal, lastGood, breaks }
    return this.recorded(walked(entry ?? outletSteps(outlet), known), { of: 'outlet', id, why, signal })
  }

  /** What passed last over each link, and at each outlet. */
  passed(): CaseFacts['passed'] {
    const { engine } = this.around
    const of =
      (kind: 'link' | 'outlet') =>
      ([id, one]: [number, LinkRunner | OutletRunner]) => ({
        ...{ of: kind, id, kind: one.kind, name: one.name },
        pieces: one.wire.tap.recall.pieces().map((piece) => passed(piece, nothingKnown)),
      })
    return [...[...engine.allLinks()].map(of('link')), ...[...engine.allOutlets()].map(of('outlet'))]
  }

  close() {
    this.following.close()
  }

  /** Links, outlets and bridges are followed; whether tags have values their links say. */
  private *followed(): Iterable<FollowedPath> {
    const { engine } = this.around
    for (const [id, link] of engine.allLinks()) {
      // whoever runs it follows it
      if (link.isElsewhere) continue
      const protocol = protocolOf(link.kind)
      yield {
        ...{ of: 'link', id, flow: link.flow, isUnproven: protocol.isMuteUntilAsked === true && !link.hasPoints },
        walk: (signal) => this.walkLink(id, link, signal, 'failure'),
        pieces: () => link.wire.tap.recall.pieces(),
        isAnswer: ({ bytes }) => !isFromOther(bytes, protocol.goal(link.draft.settings)),
        counts: () => ({ unanswered: link.meters.unanswered, connections: link.wire.tap.mark() }),
        takeDown: () => this.takeDown(id, link),
      }
    }
    for (const [id, outlet] of engine.allOutlets())
      yield { of: 'outlet', id, flow: outlet.flow, walk: (signal) => this.walkOutlet(id, outlet, signal, 'failure') }
    for (const [id, bridge] of engine.wanted.things.bridge) {
      const runner = engine.bridges.get(id)
      if (runner) yield { of: 'bridge', id, flow: runner.flow, walk: (signal) => this.walkBridge(bridge, runner, signal, 'failure') }
    }
  }

  /** The steps of a link within a longer way. One that is switched off is not dialled. */
  private async *linkSteps(id: number, runner: LinkRunner, signal: AbortSignal, uses?: readonly TableUse[]): Steps {
    const { draft, name } = runner
    const off = fault('link.off', { name })
    if (!draft.on) return yield { step: 'on', title: 'Switched on', flow: 'broken', evidence: off.what, ms: null, fault: off }
    yield* runner.check(draft.settings, signal) ?? this.dialled(draft, id, signal, runner.wire, uses)
  }

  private walkedOver(runner: LinkRunner, linkId: number, steps: Steps, mayGreet: boolean, more: KnownPath['more'] = () => ({})): Parts {
    const { tap } = runner.wire
    const mark = tap.mark()
    const { lastGood, breaks, exchange } = this.following.of('link', linkId)
    const mask = this.maskFor(runner.draft.settings)
    const clean = (pieces: Piece[]) => pieces.map((piece) => passed(piece, mask))
    return walked(steps, {
      ...this.knownOf(runner.draft, linkId, runner.name),
      ...{ lastGood, breaks, mayGreet, more, exchange: exchange && { good: clean(exchange.good), failed: clean(exchange.failed) } },
      heard: () => tap.recall.heardSince(mark),
      learned: (farSide) => this.learned(linkId, farSide),
    })
  }

  /** Settings that are not in force, over connections of their own. */
  private async *checkDraft(draft: LinkDraft, linkId: number | null, signal: AbortSignal): Parts {
    const wire = new Wire(protocolOf(draft.kind).frames)
    try {
      yield* walked(this.dialled(draft, linkId, signal, wire), {
        ...this.without(),
        ...this.knownOf(draft, linkId, null),
        mayGreet: true,
        heard: () => wire.tap.recall.heardSince(0),
      })
    } finally {
      wire.close()
    }
  }

  private maskFor(settings: unknown): Mask {
    const { seal } = this.around.security
    return new Mask(secretsIn(settings, (sealed) => opened(seal, sealed)))
  }

  /** @param uses what is wanted of a database there; absent: what all bridges want of it */
  private dialled(draft: LinkDraft, linkId: number | null, signal: AbortSignal, wire: Wire, uses?: readonly TableUse[]): Steps {
    const { engine, security } = this.around
    return driverOf(draft.kind).check(draft.settings, signal, {
      ...{ security, wire, roots: () => engine.roots, beside: engine.connectedTo(draft) },
      uses: uses ?? (linkId === null ? [] : engine.tablesUsedOver(linkId)),
    })
  }

  /** What is known of any path. */
  private without(more: KnownPath['more'] = () => ({})): KnownPath {
    return {
      ...{ goalOf: () => null, lastGood: null, breaks: [], then: null, beside: [], exchange: null, mayGreet: false, more },
      now: (found) => this.circumstances(null, found),
      heard: () => null,
    }
  }

  private knownOf(draft: LinkDraft, linkId: number | null, own: string | null) {
    const { engine, book } = this.around
    const goal = protocolOf(draft.kind).goal(draft.settings)
    return {
      goalOf: ({ joint }: CheckStep) => (joint === undefined || joint === 'link' || joint === 'point' ? goal : null),
      then: linkId === null ? null : book.goodOf('link', linkId),
      beside: engine.connectedTo(draft).filter((name) => name !== own),
      now: (found: Found) => this.circumstances(linkId, found),
    }
  }

  /** Keeps what came of it. */
  private async *recorded(parts: Parts, { of, id, why, signal }: { of: PathKind; id: number; why: Why; signal: AbortSignal }): Parts {
    const [at, began] = [Date.now(), performance.now()]
    const steps = new Map<string, CheckStep>()
    let verdict: Verdict | null = null
    for await (const part of parts) {
      if ('verdict' in part) verdict = part.verdict
      else steps.set(part.step, part)
      yield part
    }
    const all = [...steps.values()]
    const outcome = verdict ? 'stopped' : signal.aborted ? 'unfinished' : 'sound'
    this.around.book.add({ of, id, at, ms: performance.now() - began, why, outcome, steps: all, verdict })
  }

  /** How it is while it works. */
  private async takeDown(id: number, link: LinkRunner) {
    const goal = protocolOf(link.kind).goal(link.draft.settings)
    const address = goal ? await addressOf(goal.host) : null
    const route = address === null ? null : await routeTo(address)
    const neighbour = route?.outcome === 'same network' && address ? await neighbourAt(address) : null
    if (this.around.engine.link(id) !== link) return
    const before = this.around.book.goodOf('link', id)
    const { certificate = null, peer = null, clockAhead = null } = before ?? {}
    const hardware = neighbour?.hardware ?? null
    const found = { address, route: route ? routeText(route) : null, hardware, certificate, peer, clockAhead }
    this.around.book.worked('link', id, this.circumstances(id, found))
    this.learned(id, await link.farSide().catch(() => ({})))
  }

  /** Beside how it was when it last worked. */
  private learned(id: number, farSide: FarSide) {
    const { book } = this.around
    const before = book.goodOf('link', id)
    if (before) book.worked('link', id, { ...before, ...farSide })
  }

  private circumstances(id: number | null, found: Found): Circumstances {
    const { engine, security } = this.around
    return {
      at: Date.now(),
      revision: id === null ? 0 : (engine.wanted.things.link.get(id)?.revision ?? 0),
      ...found,
      ownCertificate: security.own.facts.fingerprintSha1,
      interfaces: ownInterfaces().map(({ name, address }) => `${name} ${address}`),
      engineStarted: engine.startedAt,
      clockSet: Math.round(Date.now() - performance.now() - this.clockBase),
    }
  }
}

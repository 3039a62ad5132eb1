import type { Circumstances } from '#core/diagnosis/changes'
import { routeText } from '#core/diagnosis/words'
import { exchangesIn, type Exchanges } from '#core/diagnosis/exchange'
import { Mask } from '#core/handover/mask'
import { secretsIn } from '#core/handover/secretsIn'
import { hasPoints, protocolOf } from '#core/links/registry'
import type { LinkDraft } from '#shared/links/link'
import type { CheckPart, PathKind, PathRecord, Verdict } from '#shared/diagnosis'
import type { Flow } from '#shared/flow'
import type { CaseFacts } from '#shared/handover'
import type { CheckStep } from '#shared/status'
import type { Engine } from '../engine'
import type { LinkRunner } from '../links/linkRunner'
import type { OutletRunner } from '../outlets/outletRunner'
import { driverOf } from '../links/registry'
import type { Security } from '../trust/security'
import { ownInterfaces } from '../wire/interfaces'
import type { Piece } from '../wire/recall'
import { Wire } from '../wire/wire'
import { untilFresh } from './freshness'
import type { PathBook } from './pathBook'
import { neighbourAt, routeTo } from './probes'
import { addressOf, passed, walked } from './walk'

const lookMs = 1000
/** After a break a path is checked soon, and then again and again with growing pauses. */
const checkAfterMs = [700, 15_000, 120_000, 900_000]
const leastBetweenMs = 10_000
const mostAtOnce = 2
const longestCheckMs = 60_000
/** How it is while it works is taken down a moment after it came back, and from time to time. */
const takeDownAfterMs = 3000
const takeDownEachMs = 300_000
const mostHeld = 6

/** What is followed of one link. */
interface Followed {
  flow: Flow
  since: number
  lastGood: number | null
  held: number[]
  /** When the next check is due; null: none is. */
  dueAt: number | null
  tries: number
  checkedAt: number
  takenDownAt: number
  exchange: Exchanges<Piece> | null
}

type Found = Pick<Circumstances, 'address' | 'route' | 'hardware' | 'certificate'>

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

const isTrouble = (flow: Flow) => flow === 'broken' || flow === 'late'

/** Follows every link: checks it soon after it broke, and knows how it was when it last worked. */
export class PathWatch {
  private followed = new Map<number, Followed>()
  private underWay = 0
  private abort = new AbortController()
  private timer: NodeJS.Timeout
  /** Wall clock minus the clock that nobody sets. */
  private readonly clockBase = Date.now() - performance.now()

  constructor(private around: Around) {
    this.timer = setInterval(() => this.look(), lookMs)
    this.timer.unref()
  }

  /** Settings as somebody has them on a sheet: over the connection at hand where they are in force. Nothing of it is kept. */
  checkSheet(draft: LinkDraft, linkId: number | null, signal: AbortSignal): AsyncGenerator<CheckPart> {
    const runner = linkId === null ? undefined : this.around.engine.link(linkId)
    if (linkId === null || !runner?.has(draft.settings)) return this.checkDraft(draft, linkId, signal)
    return this.walkedOver(runner, linkId, runner.check(draft.settings, signal) ?? this.dialled(draft, linkId, signal, runner.wire), true)
  }

  /** The path of a link as it is, to the end, and kept. */
  walkLink(linkId: number, runner: LinkRunner, signal: AbortSignal, why: PathRecord['why']): AsyncGenerator<CheckPart> {
    const { draft } = runner
    // a connection that just broke tells less than a new one
    const isLost = why === 'failure' && runner.flow === 'broken'
    const steps = (isLost ? null : runner.check(draft.settings, signal)) ?? this.dialled(draft, linkId, signal, runner.wire)
    const whole = hasPoints(draft.kind) ? untilFresh(steps, runner) : steps
    return this.recorded(this.walkedOver(runner, linkId, whole, why === 'asked'), 'link', linkId, why, signal)
  }

  private walkedOver(runner: LinkRunner, linkId: number, steps: AsyncGenerator<CheckStep>, mayGreet: boolean): AsyncGenerator<CheckPart> {
    const { tap } = runner.wire
    const mark = tap.mark()
    const { lastGood = null, held = [], exchange = null } = this.followed.get(linkId) ?? {}
    const mask = this.maskFor(runner.draft.settings)
    const clean = (pieces: Piece[]) => pieces.map((piece) => passed(piece, mask))
    return walked(steps, {
      ...this.knownOf(runner.draft, linkId, runner.name),
      ...{ lastGood, held, mayGreet, exchange: exchange && { good: clean(exchange.good), failed: clean(exchange.failed) } },
      heard: () => tap.recall.heardSince(mark),
    })
  }

  /** Settings that are not in force, over connections of their own. */
  private async *checkDraft(draft: LinkDraft, linkId: number | null, signal: AbortSignal): AsyncGenerator<CheckPart> {
    const wire = new Wire(protocolOf(draft.kind).frames)
    try {
      yield* walked(this.dialled(draft, linkId, signal, wire), {
        ...this.knownOf(draft, linkId, null),
        ...{ lastGood: null, held: [], exchange: null, mayGreet: true },
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

  private dialled(draft: LinkDraft, linkId: number | null, signal: AbortSignal, wire: Wire): AsyncGenerator<CheckStep> {
    const { engine, security } = this.around
    return driverOf(draft.kind).check(draft.settings, signal, {
      ...{ security, wire, roots: () => engine.roots, beside: engine.connectedTo(draft) },
      uses: linkId === null ? [] : engine.tablesUsedOver(linkId),
    })
  }

  private knownOf(draft: LinkDraft, linkId: number | null, own: string | null) {
    const { engine, book } = this.around
    return {
      goal: protocolOf(draft.kind).goal(draft.settings),
      then: linkId === null ? null : book.goodOf('link', linkId),
      beside: engine.connectedTo(draft).filter((name) => name !== own),
      now: (found: Found) => this.circumstances(linkId, found),
    }
  }

  /** One entry of an outlet, from the inside out. */
  checkOutlet(id: number, outlet: OutletRunner, steps: AsyncGenerator<CheckStep>, signal: AbortSignal): AsyncGenerator<CheckPart> {
    const parts = walked(steps, {
      ...{ goal: outlet.goal, lastGood: null, held: [], then: null, beside: [], exchange: null, mayGreet: false },
      now: (found) => this.circumstances(null, found),
      heard: () => null,
    })
    return this.recorded(parts, 'outlet', id, 'asked', signal)
  }

  /** What passed last over each link, and at each outlet. */
  passed(): CaseFacts['passed'] {
    const { engine } = this.around
    const of =
      (kind: 'link' | 'outlet') =>
      ([id, one]: [number, LinkRunner | OutletRunner]) => ({
        ...{ of: kind, id, name: one.name },
        pieces: one.wire.tap.recall.pieces().map((piece) => passed(piece, nothingKnown)),
      })
    return [...[...engine.allLinks()].map(of('link')), ...[...engine.allOutlets()].map(of('outlet'))]
  }

  close() {
    clearInterval(this.timer)
    this.abort.abort()
  }

  /** Keeps what came of it. */
  async *recorded(
    parts: AsyncGenerator<CheckPart>,
    of: PathKind,
    id: number,
    why: PathRecord['why'],
    signal: AbortSignal,
  ): AsyncGenerator<CheckPart> {
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

  private look() {
    const { engine, book } = this.around
    const now = Date.now()
    for (const [id, link] of engine.allLinks()) {
      const flow = link.flow
      const known = this.followed.get(id) ?? this.begin(id, now)
      if (flow !== known.flow) this.turned(known, link, flow, now)
      if (flow === 'flowing') known.lastGood = now
      if (flow === 'flowing' && now - known.since > takeDownAfterMs && now - known.takenDownAt > takeDownEachMs) {
        known.takenDownAt = now
        void this.takeDown(id, link)
      }
      if (known.dueAt !== null && now >= known.dueAt && this.underWay < mostAtOnce) void this.checkAfterFailure(id, link, known)
    }
    for (const id of this.followed.keys())
      if (!engine.link(id)) {
        this.followed.delete(id)
        book.forget('link', id)
      }
  }

  private begin(id: number, now: number): Followed {
    const lastGood = this.around.book.goodOf('link', id)?.at ?? null
    const fresh: Followed = {
      flow: 'off',
      since: now,
      lastGood,
      held: [],
      dueAt: null,
      tries: 0,
      checkedAt: 0,
      takenDownAt: 0,
      exchange: null,
    }
    this.followed.set(id, fresh)
    return fresh
  }

  private turned(known: Followed, link: LinkRunner, flow: Flow, now: number) {
    if (known.flow === 'flowing') {
      known.held = [...known.held, now - known.since].slice(-mostHeld)
      known.exchange = exchangesIn(link.wire.tap.recall.pieces())
    }
    known.flow = flow
    known.since = now
    known.tries = 0
    // one that comes and goes all the time is not checked each time
    known.dueAt = isTrouble(flow) ? Math.max(now + checkAfterMs[0]!, known.checkedAt + leastBetweenMs) : null
  }

  private async checkAfterFailure(id: number, link: LinkRunner, known: Followed) {
    known.tries++
    known.checkedAt = Date.now()
    known.dueAt = null
    this.underWay++
    try {
      const signal = AbortSignal.any([this.abort.signal, AbortSignal.timeout(longestCheckMs)])
      const parts = this.walkLink(id, link, signal, 'failure')
      while (!(await parts.next()).done);
    } catch {
      // what a check throws, it throws again when somebody asks for it, and says it to him
    } finally {
      this.underWay--
      if (isTrouble(known.flow)) known.dueAt = Date.now() + (checkAfterMs[known.tries] ?? checkAfterMs.at(-1)!)
    }
  }

  /** How it is while it works. */
  private async takeDown(id: number, link: LinkRunner) {
    const goal = protocolOf(link.kind).goal(link.draft.settings)
    const address = goal ? await addressOf(goal.host) : null
    const route = address === null ? null : await routeTo(address)
    const neighbour = route?.outcome === 'same network' && address ? await neighbourAt(address) : null
    if (this.around.engine.link(id) !== link) return
    const before = this.around.book.goodOf('link', id)
    const found = {
      address,
      route: route ? routeText(route) : null,
      hardware: neighbour?.hardware ?? null,
      certificate: before?.certificate ?? null,
    }
    this.around.book.worked('link', id, this.circumstances(id, found))
  }

  private circumstances(id: number | null, found: Found): Circumstances {
    const { engine, security } = this.around
    return {
      at: Date.now(),
      revision: id === null ? 0 : (engine.wanted.things.link.get(id)?.revision ?? 0),
      ...found,
      ownCertificate: security.own.facts.fingerprintSha1,
      peer: null,
      clockAhead: null,
      interfaces: ownInterfaces().map(({ name, address }) => `${name} ${address}`),
      engineStarted: engine.startedAt,
      clockSet: Math.round(Date.now() - performance.now() - this.clockBase),
    }
  }
}

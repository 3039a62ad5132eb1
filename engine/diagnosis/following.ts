import { exchangesIn, type Exchanges } from '#core/diagnosis/exchange'
import { unsteadyOf, type Break } from '#core/diagnosis/steadiness'
import type { CheckPart, PathKind } from '#shared/diagnosis'
import type { Flow } from '#shared/flow'
import type { Piece } from '../wire/recall'

const lookMs = 1000
/** After a break a path is checked soon, and then again and again with growing pauses. */
const checkAfterMs = [700, 15_000, 120_000, 900_000]
const leastBetweenMs = 10_000
const unsteadyBetweenMs = 60_000
const mostAtOnce = 2
const longestCheckMs = 60_000
/** How it is while it works is taken down a moment after it came back, and from time to time. */
const takeDownAfterMs = 3000
const takeDownEachMs = 300_000
const mostBreaks = 6

interface Counts {
  unanswered: number
  connections: number
}

/** A path that is followed. */
export interface FollowedPath {
  of: PathKind
  id: number
  /** How it is now. */
  flow: Flow
  /** Flowing, it has no more to show than a connection that stands: nothing was asked over it. */
  isUnproven?: boolean
  walk(signal: AbortSignal): AsyncGenerator<CheckPart>
  /** What passed last, where that is remembered. */
  pieces?(): Piece[]
  /** Whether a piece that came is one of whom it was asked. */
  isAnswer?(piece: Piece): boolean
  /** So much nobody answered, and so many connections were made. */
  counts?(): Counts
  /** Takes down how it is while it works. */
  takeDown?(): Promise<void>
}

/** What is known of a path from following it. */
export interface Followed {
  lastGood: number | null
  breaks: readonly Break[]
  exchange: Exchanges<Piece> | null
}

interface State extends Followed {
  counts: Counts | null
  flow: Flow
  since: number
  /** When the next check is due; null: none is. */
  dueAt: number | null
  tries: number
  checkedAt: number
  takenDownAt: number
}

interface Around {
  paths(): Iterable<FollowedPath>
  /** When a path last worked, from before this engine. */
  goodBefore(of: PathKind, id: number): number | null
  gone(of: PathKind, id: number): void
}

const isTrouble = (flow: Flow) => flow === 'broken' || flow === 'late'
const keyOf = (of: PathKind, id: number) => `${of} ${id}`

/** Follows paths: has each checked soon after it broke, and knows when it last worked. */
export class Following {
  private states = new Map<string, State & { of: PathKind; id: number }>()
  private underWay = 0
  private abort = new AbortController()
  private timer: NodeJS.Timeout

  constructor(private around: Around) {
    this.timer = setInterval(() => this.look(), lookMs)
    this.timer.unref()
  }

  of(of: PathKind, id: number): Followed {
    return this.states.get(keyOf(of, id)) ?? { lastGood: null, breaks: [], exchange: null }
  }

  close() {
    clearInterval(this.timer)
    this.abort.abort()
  }

  private look() {
    const now = Date.now()
    const there = new Set<string>()
    for (const path of this.around.paths()) {
      const key = keyOf(path.of, path.id)
      there.add(key)
      const known = this.states.get(key) ?? this.begin(path, now)
      follow(known, path, now)
      if (known.dueAt !== null && now >= known.dueAt && this.underWay < mostAtOnce) void this.checkAfterFailure(path, known)
    }
    for (const [key, { of, id }] of this.states) if (!there.has(key)) this.end(key, of, id)
  }

  private begin({ of, id }: FollowedPath, now: number): State {
    const fresh: State & { of: PathKind; id: number } = {
      ...{ of, id, counts: null, flow: 'off', since: now, lastGood: this.around.goodBefore(of, id), breaks: [] },
      ...{ dueAt: null, tries: 0, checkedAt: 0, takenDownAt: 0, exchange: null },
    }
    this.states.set(keyOf(of, id), fresh)
    return fresh
  }

  private end(key: string, of: PathKind, id: number) {
    this.states.delete(key)
    this.around.gone(of, id)
  }

  private async checkAfterFailure(path: FollowedPath, known: State) {
    known.tries++
    known.checkedAt = Date.now()
    known.dueAt = null
    this.underWay++
    try {
      const parts = path.walk(AbortSignal.any([this.abort.signal, AbortSignal.timeout(longestCheckMs)]))
      while (!(await parts.next()).done);
    } catch {
      // what a check throws, it throws again when somebody asks for it, and says it to him
    } finally {
      this.underWay--
      if (isTrouble(known.flow)) known.dueAt = Date.now() + (checkAfterMs[known.tries] ?? checkAfterMs.at(-1)!)
    }
  }
}

const follow = (known: State, path: FollowedPath, now: number) => {
  const counts = path.counts?.() ?? null
  if (path.flow !== known.flow) turned(known, path, now)
  else if (path.flow === 'flowing' && isBackAlready(known.counts, counts)) broke(known, path, now, counts!.connections)
  known.counts = counts
  if (path.flow !== 'flowing' || path.isUnproven) return
  known.lastGood = now
  if (now - known.since <= takeDownAfterMs || now - known.takenDownAt <= takeDownEachMs) return
  known.takenDownAt = now
  void path.takeDown?.().catch(() => {})
}

const turned = (known: State, path: FollowedPath, now: number) => {
  if (known.flow === 'flowing') broke(known, path, now)
  known.flow = path.flow
  known.since = now
  known.tries = 0
  known.dueAt = dueAt(known, now)
}

/** It broke since somebody looked, and works again: a question was lost, and it took another connection. */
const isBackAlready = (before: Counts | null, now: Counts | null) =>
  !!before && !!now && now.unanswered > before.unanswered && now.connections > before.connections

/** @param after what passed over this connection came after the break */
const broke = (known: State, path: FollowedPath, now: number, after = Infinity) => {
  const pieces = path.pieces?.().filter(({ connection }) => connection < after)
  known.exchange = pieces ? exchangesIn(pieces, path.isAnswer) : null
  const ended = { at: now, heldMs: now - known.since, quietMs: quietBefore(known.exchange) }
  known.breaks = [...known.breaks, ended].slice(-mostBreaks)
  known.since = now
  known.dueAt ??= dueAt(known, now)
}

/** When a path is to be checked that just turned. One that comes and goes all the time is not checked each time. */
const dueAt = ({ flow, checkedAt, breaks }: State, now: number): number | null => {
  if (isTrouble(flow)) return Math.max(now + checkAfterMs[0]!, checkedAt + leastBetweenMs)
  // it may be back before anybody looked
  return flow === 'flowing' && unsteadyOf(breaks, now) ? Math.max(now + checkAfterMs[0]!, checkedAt + unsteadyBetweenMs) : null
}

/** How long nothing had passed before the first question that nobody answered. */
const quietBefore = (exchange: Exchanges<Piece> | null): number | null => {
  const [answer, question] = [exchange?.good.at(-1), exchange?.failed[0]]
  return answer && question?.out ? question.at - answer.at : null
}

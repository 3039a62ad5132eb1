import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import { isPassingStatus } from '#core/http/status'
import { readCall } from '#core/http/call'
import { CallProblem, requestOf, type Request } from '#core/http/operation'
import type { HttpPointOptions, HttpSettings } from '#core/http/settings'
import type { PointDefinition } from '#core/links/protocol'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { earliest } from '#pacing/earliest'
import type { LinkStatus, RefusedPoint } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../driver'
import type { CallTaker } from '../receiving'
import { pauseAfter } from '../repeated'
import { WriteQueue } from '../writeQueue'
import { Caller, CallFailure, failureOf, type Answer } from './caller'
import { callTaker } from './callTaker'
import { Gate } from './gate'
import { originOf } from './origin'
import { PolledCall } from './polledCall'
import { accessOf } from './access'
import { targetOf } from './targets'
import { tryCall } from './tryCall'

/** While no tag asks for anything it is looked so often whether the host is there. */
const lookMs = 15_000
const writes = { keep: 'all' as const, within: 10_000 }

/** A link to a web API at work: calls are made again and again for the tags that live in their answers. */
export class HttpLinkSession implements LinkSession<HttpSettings> {
  private settings: HttpSettings
  private caller: Caller | Fault
  private gate: Gate
  private calls = new Map<string, PolledCall>()
  private byHandle = new Map<Handle, PolledCall>()
  private points = new Map<Handle, Point>()
  private writes = new WriteQueue(writes)
  private counts = { requests: 0, failures: 0 }
  private ms: number | null = null
  /** Whether the host was there, while nothing was asked; null: not known yet. */
  private looked: { fault: Fault | null } | null = null
  private lookTimer: NodeJS.Timeout | null = null
  private closed = false
  private taker = callTaker(
    () => this.settings.operations,
    (request) => this.makeSoon(request),
  )

  constructor(private context: LinkContext<HttpSettings>) {
    this.settings = context.settings
    this.caller = this.callerNow()
    this.gate = new Gate(this.settings)
    this.lookSoon(0)
  }

  update(settings: HttpSettings) {
    const before = this.settings
    this.settings = settings
    this.gate.adjust(settings)
    const isElsewhere = whereTo(before) !== whereTo(settings)
    if (howOf(before) !== howOf(settings)) {
      if (this.caller instanceof Caller) void this.caller.retire()
      this.caller = this.callerNow()
      this.looked = null
      this.lookSoon(0)
    }
    for (const call of this.calls.values())
      if (isElsewhere || asked(before, call.text) !== asked(settings, call.text)) this.askAnew(call)
      else call.plan()
    this.context.table.flush()
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    for (const handle of removed) this.remove(handle)
    for (const point of changed) this.place(point)
    for (const [text, call] of this.calls) {
      if (call.targets.size > 0) continue
      call.close()
      this.calls.delete(text)
    }
    this.context.table.flush()
  }

  write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const point = this.points.get(handle)
    if (!point)
      return Promise.resolve({ ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) })
    return this.writes.push(handle, point.path, () => this.writeNow(point, value))
  }

  origin(handle: Handle): ValueOrigin | null {
    const call = this.byHandle.get(handle)
    const target = call?.targets.get(handle)
    return call && target ? originOf(call, target, this.context.table) : null
  }

  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    return this.caller instanceof Caller ? tryCall((request) => this.makeSoon(request), this.settings, point) : null
  }

  receiver(): CallTaker {
    return this.taker
  }

  findings(): PointFinding[] {
    return [...this.calls.values()].flatMap(({ targets, fault: why }) =>
      [...targets.values()].flatMap(({ point: { handle }, problem }): PointFinding[] => {
        if (why && isForGood(why)) return [{ handle, kind: 'refused', text: why.what }]
        return problem ? [{ handle, kind: 'type', text: problem.what }] : []
      }),
    )
  }

  nextTry() {
    return earliest([...this.calls.values()].map((call) => call.nextTry))
  }

  tryNow() {
    for (const call of this.calls.values()) call.tryNow()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    return { ...this.condition(), answerMs: this.ms, ...this.counts, refused: this.refused(), connections: this.isThere() ? 1 : 0 }
  }

  async close() {
    this.closed = true
    if (this.lookTimer) clearTimeout(this.lookTimer)
    for (const call of this.calls.values()) call.close()
    this.gate.close()
    if (this.caller instanceof Caller) await this.caller.close()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, quality.BadOutOfService, Date.now())
    this.context.table.flush()
  }

  /** What was known says nothing about what comes. */
  private askAnew(call: PolledCall) {
    const now = Date.now()
    for (const handle of call.targets.keys()) this.context.table.renew(handle, now)
    call.again()
  }

  private callerNow(): Caller | Fault {
    try {
      return new Caller(this.settings, accessOf(this.settings, this.context.security, this.context.wire), this.context.wire)
    } catch (error) {
      return fault('ours.unexpected', { problem: (error as Error).message })
    }
  }

  private place(point: Point) {
    const before = this.points.get(point.handle)
    if (before) this.remove(point.handle)
    if (before && !isSamePlace(before, point)) this.context.table.renew(point.handle, Date.now())
    this.points.set(point.handle, point)
    const call = this.callFor(point.address)
    this.byHandle.set(point.handle, call)
    call.place(targetOf(point))
  }

  private remove(handle: Handle) {
    this.points.delete(handle)
    this.byHandle.get(handle)?.remove(handle)
    this.byHandle.delete(handle)
  }

  private callFor(text: string): PolledCall {
    const known = this.calls.get(text)
    if (known) return known
    const call = new PolledCall(text, {
      make: (etag) => this.make(text, {}, etag),
      pauseAfter: (failures) => pauseAfter(this.settings.patience, failures),
      usualInterval: () => this.settings.interval,
      table: this.context.table,
      told: (failure, unfit, ms) => this.told(failure, unfit, ms),
    })
    this.calls.set(text, call)
    return call
  }

  /** Rejects with a `CallFailure`. */
  private make(text: string, more: Record<string, TagValue>, etag: string | null = null): Promise<Answer> {
    return this.goOut((caller) => caller.call(this.requestOf(text, more), { etag }))
  }

  /** Makes a call of a bridge, or tries one; what has to wait too long for its turn is late. Rejects with a `CallFailure`. */
  private async makeSoon(request: Request): Promise<Answer> {
    const { answer } = this.settings.patience
    const answered = await this.goOut((caller) => caller.call(request), answer).catch((error: CallFailure) => {
      if (error.status === null || isPassingStatus(error.status)) this.counts.failures++
      throw error
    })
    this.ms = answered.ms
    return answered
  }

  private goOut(work: (caller: Caller) => Promise<Answer>, within?: number): Promise<Answer> {
    const late = () => new CallFailure(fault('http.waits', { place: placeOfBase(this.settings.base).host, ms: within ?? 0 }), null)
    return this.gate
      .pass(
        () => {
          const { caller } = this
          if (!(caller instanceof Caller)) throw new CallFailure(caller, null)
          this.counts.requests++
          return this.measured(work(caller))
        },
        within,
        late,
      )
      .catch((error: unknown) => {
        const failure = failureOf(error)
        if (failure.after !== null) this.gate.pause(Math.min(failure.after, 3_600_000))
        throw failure
      })
  }

  private measured(answer: Promise<Answer>): Promise<Answer> {
    const begun = performance.now()
    const { meters } = this.context
    return answer.then(
      (answered) => {
        meters.answered(null, answered.ms)
        return answered
      },
      (error: unknown) => {
        const { why, status } = failureOf(error)
        const ms = performance.now() - begun
        meters.failed(null, status === null ? why.code : `${why.code} ${status}`, status === null ? null : ms, ms)
        throw error
      },
    )
  }

  private requestOf(text: string, more: Record<string, TagValue>): Request {
    const read = readCall(text)
    const operation = read.ok ? this.settings.operations.find(({ name }) => name === read.call.operation) : undefined
    if (!read.ok || !operation) throw new CallFailure(fault('http.call', { call: text, problem: 'there is no such operation' }), null)
    try {
      return requestOf(operation, { ...read.call.given, ...(more as Record<string, never>) })
    } catch (error) {
      if (!(error instanceof CallProblem)) throw error
      throw new CallFailure(fault('http.call', { call: text, problem: error.message }), null)
    }
  }

  private told(failure: CallFailure | null, unfit: number, ms: number | null) {
    this.looked = null
    if (ms !== null) this.ms = ms
    if (failure) this.counts.failures++
    else if (unfit > 0) this.counts.failures++
    if (failure && this.noted !== failure.why.code) this.context.journal.caution(this.context.name, failure.why.what, failure.why)
    if (!failure && this.noted !== null && this.failing().length === 0) this.context.journal.note(this.context.name, 'It answers again.')
    this.noted = failure ? failure.why.code : this.failing().length === 0 ? null : this.noted
  }
  private noted: string | null = null

  private failing(): PolledCall[] {
    return [...this.calls.values()].filter((call) => call.fault !== null)
  }

  private isThere(): boolean {
    const all = [...this.calls.values()]
    return all.length === 0 ? this.looked?.fault === null : all.some((call) => call.last !== null && call.fault === null)
  }

  private lookSoon(ms: number) {
    if (this.closed) return
    if (this.lookTimer) clearTimeout(this.lookTimer)
    this.lookTimer = setTimeout(() => void this.look(), ms)
  }

  /** Whether the host is there, while no tag asks for anything. */
  private async look() {
    if (this.calls.size === 0) {
      const { settings, caller } = this
      const began = performance.now()
      const there = caller instanceof Caller ? caller.connect() : Promise.reject(caller as unknown as Error)
      const why = await there.then(
        ({ socket }) => void socket.destroy(),
        (error: unknown) => (isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message })),
      )
      if (settings === this.settings && !this.closed) {
        this.looked = { fault: why ?? null }
        if (!why) this.ms = performance.now() - began
      }
    }
    this.lookSoon(lookMs)
  }

  private async writeNow(point: Point, value: TagValue): Promise<WriteOutcome> {
    const { setBy } = point.options as HttpPointOptions
    const raw = toRaw(value, point.type, point.scaling)
    if (!raw.ok || !setBy)
      return {
        ok: false,
        quality: !raw.ok && raw.reason === 'range' ? quality.BadOutOfRange : quality.BadTypeMismatch,
        fault: fault('write.value', { path: point.path, problem: raw.ok ? 'no call is named by which it is written' : raw.detail }),
      }
    try {
      await this.make(setBy, { value: raw.raw })
      this.byHandle.get(point.handle)?.again()
      return { ok: true }
    } catch (error) {
      const { why, status } = error as CallFailure
      const code = qualityAfterWrite(status, why)
      return { ok: false, quality: code, fault: why }
    }
  }

  private refused(): RefusedPoint[] {
    return [...this.calls.values()]
      .flatMap(({ text, targets, fault: why }) =>
        why && isForGood(why) ? [...targets.values()].map(({ point }) => ({ path: point.path, address: text, why: why.what })) : [],
      )
      .slice(0, 20)
  }

  private condition(): Pick<LinkStatus, 'flow' | 'sentence' | 'fault'> {
    const { host } = placeOfBase(this.settings.base)
    if (!(this.caller instanceof Caller)) return { flow: 'broken', sentence: this.caller.what, fault: this.caller }
    const all = [...this.calls.values()]
    if (all.length === 0) {
      if (!this.looked) return { flow: 'late', sentence: 'Connecting', fault: null }
      const why = this.looked.fault
      return why
        ? { flow: 'broken', sentence: why.what, fault: why }
        : { flow: 'flowing', sentence: `${host} is there, no tags yet`, fault: null }
    }
    const failing = this.failing()
    const asked = all.filter(({ last, fault: why }) => last !== null || why !== null)
    if (asked.length === 0) return { flow: 'late', sentence: 'Asking for the first time', fault: null }
    const [first] = failing
    if (!first) return { flow: 'flowing', sentence: `${counted(all.length, 'call')} answered`, fault: null }
    const why = first.fault!
    const flow = failing.length === asked.length ? (isPassing(why) ? 'late' : 'broken') : 'late'
    const share = failing.length === all.length ? '' : ` · ${failing.length} of ${counted(all.length, 'call')} failed`
    return { flow, sentence: `${why.what}${share}`, fault: why }
  }
}

const isForGood = ({ code }: Fault) => code === 'http.refused' || code === 'http.call' || code === 'http.elsewhere'
const isPassing = ({ code }: Fault) => code === 'http.busy'

const qualityAfterWrite = (status: number | null, why: Fault): number => {
  if (status === 401 || status === 403) return quality.BadUserAccessDenied
  if (status !== null && status < 500 && status !== 429) return quality.BadOutOfRange
  return why.code === 'http.silent' ? quality.BadTimeout : quality.BadNoCommunication
}

const isSamePlace = (a: Point, b: Point) =>
  a.address === b.address && a.type === b.type && JSON.stringify([a.options, a.scaling]) === JSON.stringify([b.options, b.scaling])

/** What a call comes to by the operations of its link; an example changes nothing of it. */
const asked = ({ operations }: HttpSettings, text: string): string => {
  const read = readCall(text)
  const operation = read.ok ? operations.find(({ name }) => name === read.call.operation) : undefined
  return JSON.stringify({ ...operation, example: '' })
}

/** What decides where calls go and as whom. */
const whereTo = ({ base, signIn, headers }: HttpSettings) => JSON.stringify([base, signIn, headers])
/** What decides how they are made. */
const howOf = ({ operations: _operations, interval: _interval, perMinute: _perMinute, ...rest }: HttpSettings) => JSON.stringify(rest)

import { isDeepStrictEqual } from 'node:util'
import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { FollowPlan } from '#core/records/follow'
import { itemText, type RecordItem } from '#core/records/items'
import { mostTags } from '#core/records/settings'
import { isGood, quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import type { ThingOf } from '#db/subjects'
import { Backoff } from '#pacing/backoff'
import type { Flow } from '#shared/flow'
import type { RecordSetStatus } from '#shared/records/status'
import type { ValueOrigin } from '#shared/values'
import type { TriggerAround } from '../bridges/triggering'
import type { JournalWriter } from '../journal/journal'
import type { WriteOutcome } from '../links/driver'
import type { LinkRunner } from '../links/linkRunner'
import type { RowStore } from '../links/receiving'
import type { MemoryStore } from '../sources/memoryStore'
import type { RunningSource } from '../sources/source'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { SetBoard } from './board'
import { workOf } from './kinds'
import { thrown, type Remembered, type SetGround, type SetWork } from './work'

export interface SetsAround {
  table: TagTable
  tags: TagRegister
  memory: MemoryStore
  journal: JournalWriter
  timing: Omit<TriggerAround, 'spool'>
  link(id: number): LinkRunner | undefined
  /** Ends when all of the difference at hand is in its place: its tags may come with it. */
  applied(): Promise<void>
  /** Has the tags of a set made, changed and removed for good. */
  follow(set: ThingOf['recordSet'], plan: FollowPlan): void
}

/** So many writes wait for their turn. */
const mostWaiting = 1000
/** After a failure it is tried again, also where nothing else would have it read. */
const firstRetryMs = 2000
const longestRetryMs = 60_000
/** The tags of a set that fails to be made are planned again after this time, ms. */
const planAgainMs = 10_000

/** A record set at work: one thing after the other, so that its tags are never half of one state and half of another. */
export class SetRunner implements RunningSource {
  private board: SetBoard
  private work: SetWork | null = null
  private endBegun: () => void = () => {}
  private turn: Promise<unknown> = Promise.resolve()
  private waiting = 0
  private isAwake = false
  private why: Fault | null = null
  private flow: Flow = 'late'
  private readMs: number | null = null
  private retry: NodeJS.Timeout | null = null
  private backoff = new Backoff(firstRetryMs, longestRetryMs)
  private linkWasThere: boolean | null = null
  private replan: NodeJS.Timeout | null = null
  private generation = 0

  constructor(
    private set: ThingOf['recordSet'],
    private around: SetsAround,
  ) {
    this.board = new SetBoard(around.table, set)
  }

  start(remembered: Remembered | null = null) {
    if (!this.set.on) return this.rest()
    this.flow = 'late'
    const generation = ++this.generation
    this.work = workOf(this.ground(generation, remembered))
    this.endBegun = this.work.begin?.() ?? (() => {})
    // what it kept is found by its tags, which may come with it
    void this.inTurn(() => this.around.applied()).catch(() => {})
    this.wake(generation)
  }

  /** What it had says nothing about what it will have. */
  update(set: ThingOf['recordSet']) {
    const tags = this.board.all()
    const remembered = this.work?.remembers?.() ?? null
    this.end()
    this.board.retire()
    this.set = set
    this.board = new SetBoard(this.around.table, set)
    const now = Date.now()
    for (const { handle } of tags) this.around.table.renew(handle, now)
    this.board.take(tags, [])
    this.around.table.flush()
    this.start(remembered)
  }

  close() {
    this.end()
    this.board.retire()
  }

  /** What it came to last, where it does what is said here. */
  lastOf(how: ThingOf['recordSet']['how']) {
    return isDeepStrictEqual(how, this.set.how) ? this.board.now : null
  }

  get linkId() {
    return this.set.linkId
  }

  /** Where the link came or broke off, it is read again at once, and tells what became of it. */
  linkIsThere(isThere: boolean) {
    const before = this.linkWasThere
    this.linkWasThere = isThere
    if (before !== isThere && isThere !== (this.flow === 'flowing')) this.wake(this.generation)
  }

  /** Another database may be there now. */
  linkChanged() {
    this.update(this.set)
  }

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    this.board.take(changed, removed)
    if (!this.work) this.board.shut(quality.BadOutOfService)
    else this.follow()
    return new Map()
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const known = this.board.itemOf(handle)
    if (!known) return refused(fault('entry.gone', { thing: 'tag', id: 0 }), quality.BadNodeIdUnknown)
    const { tag, item } = known
    const { work } = this
    if (!work) return refused(fault('records.off', { name: this.set.name }), quality.BadOutOfService)
    const fits = toRaw(value, tag.type, null)
    if (!fits.ok) {
      const code = fits.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange
      return refused(fault('write.value', { path: tag.path, problem: fits.detail }), code)
    }
    try {
      await this.inTurn(() => (item.part === 'again' ? this.readOn(fits.raw) : this.act(work, item, fits.raw)))
      return { ok: true }
    } catch (error) {
      return refused(faultOf(error), quality.BadDeviceFailure)
    }
  }

  /** Reads it now; the fault, where that fails. */
  async readNow(): Promise<Fault | null> {
    if (!this.work) return fault('records.off', { name: this.set.name })
    try {
      await this.inTurn(() => this.read())
    } catch (error) {
      return faultOf(error)
    }
    return this.why
  }

  origin(handle: Handle): ValueOrigin | null {
    const known = this.board.itemOf(handle)
    if (!known) return null
    const { tag, item } = known
    const text = valueText(this.around.table.values[handle], tag.passedOn)
    const whole = this.board.wholeAt > 0 ? { at: this.board.wholeAt } : {}
    const stages = [
      { title: 'Record set', text: this.set.name, detail: this.sentence() },
      { title: itemText(item), text, detail: `set ${this.board.changes}, whole`, ...whole },
    ]
    return { stages, readings: [], wordsFrom: '', goesTo: [], fault: isGood(this.around.table.quality[handle]!) ? null : this.why }
  }

  status(): RecordSetStatus {
    const { set, board, flow, why } = this
    const count = board.control('count')
    const key = board.control('key')
    return {
      ...{ id: set.id, flow, sentence: this.sentence(), fault: why, ...board.counts(), readMs: this.readMs },
      ...{
        changes: board.changes,
        wholeAt: board.wholeAt || null,
        count: typeof count === 'number' ? count : (board.now?.rows.length ?? null),
      },
      position: typeof board.control('position') === 'number' ? Number(board.control('position')) : null,
      key: key === undefined ? null : valueText(key),
    }
  }

  private sentence() {
    if (!this.work) return 'Switched off'
    if (this.why) return this.why.what
    return this.flow === 'late' ? 'Reading' : this.work.sentence()
  }

  private ground(generation: number, remembered: Remembered | null): SetGround {
    const { table, tags, memory, timing } = this.around
    return {
      set: this.set,
      board: this.board,
      table,
      tags,
      memory,
      timing,
      store: () => this.store(),
      wake: () => this.wake(generation),
      remembered,
      isWell: () => this.why === null,
    }
  }

  private store(): RowStore {
    const link = this.around.link(this.set.linkId)
    const receiver = link?.receiver()
    if (!link || !receiver) throw thrown(fault('entry.gone', { thing: 'link', id: this.set.linkId }))
    if (isFault(receiver)) throw thrown(receiver)
    if (receiver.takes !== 'table') throw thrown(fault('bridge.no-receiver', { link: link.name, what: 'statements' }))
    return receiver
  }

  private wake(generation: number) {
    if (generation !== this.generation || this.isAwake || !this.work) return
    this.isAwake = true
    this.inTurn(() => {
      this.isAwake = false
      return generation === this.generation ? this.read() : Promise.resolve()
    }).catch(() => (this.isAwake = false))
  }

  private readOn(value: TagValue): Promise<void> {
    return value === true ? this.readOrThrow() : Promise.resolve()
  }

  private async readOrThrow() {
    await this.read()
    if (this.why) throw thrown(this.why)
  }

  /** Never rejects: the tags tell what failed. */
  private async read() {
    const { work } = this
    if (!work) return
    const began = performance.now()
    try {
      await work.read()
      if (work !== this.work) return
      this.requireNarrow(work)
      this.readMs = performance.now() - began
      this.well(work)
    } catch (error) {
      if (work === this.work) this.failed(faultOf(error))
    }
  }

  private async act(work: SetWork, item: RecordItem, value: TagValue) {
    try {
      // what is not known is read first; what a person gives a parameter needs no database
      if (this.why && item.part !== 'parameter') await this.readOrThrow()
      await work.write(item, value)
      if (work !== this.work) return
      this.requireNarrow(work)
      if (!this.why) this.well(work)
    } catch (error) {
      if (work === this.work) this.board.tell({ error: faultOf(error).what })
      throw error
    }
  }

  private well(work: SetWork) {
    if (this.why) this.around.journal.note(this.set.name, 'It is read again.')
    this.why = null
    this.flow = 'flowing'
    this.backoff.reset()
    if (this.retry) clearTimeout(this.retry)
    this.retry = null
    const state = work.sentence()
    this.board.tell(this.set.how.kind === 'procedure' ? {} : { state, error: '' })
    this.follow()
  }

  private failed(why: Fault) {
    if (this.why?.what !== why.what) this.around.journal.caution(this.set.name, why.what, why)
    this.why = why
    this.flow = 'broken'
    const isAway = why.side !== 'entry' && !why.code.startsWith('records.')
    this.board.doubt(isAway ? quality.BadNoCommunication : quality.BadNoData, { state: 'failed', error: why.what, again: false })
    const { generation } = this
    this.retry ??= setTimeout(() => {
      this.retry = null
      this.wake(generation)
    }, this.backoff.next())
  }

  private requireNarrow(work: SetWork) {
    const shape = work.shape()
    const tags = (shape?.columns?.length ?? 0) * (shape?.rows?.length ?? 1)
    if (tags > mostTags) throw thrown(fault('records.too-wide', { name: this.set.name, tags, most: mostTags }))
  }

  /** Has its tags made that are missing. */
  private follow() {
    const { generation } = this
    void this.around.applied().then(() => generation === this.generation && this.followNow())
  }

  private followNow() {
    const shape = this.work?.shape()
    const plan = shape && this.board.plan(shape)
    if (!plan) return
    this.around.follow(this.set, plan)
    this.replan ??= setTimeout(() => {
      this.replan = null
      this.board.planAgain()
    }, planAgainMs)
  }

  private async inTurn<T>(work: () => Promise<T>): Promise<T> {
    if (this.waiting >= mostWaiting) throw thrown(fault('records.busy', { name: this.set.name, most: mostWaiting }))
    this.waiting++
    const mine = this.turn.then(work).finally(() => this.waiting--)
    this.turn = mine.catch(() => {})
    return mine
  }

  private rest() {
    this.flow = 'off'
    this.why = null
    this.board.shut(quality.BadOutOfService)
  }

  private end() {
    this.generation++
    this.endBegun()
    this.endBegun = () => {}
    this.work = null
    this.why = null
    this.isAwake = false
    // what still runs there ends by itself; nothing of now waits for it
    this.turn = Promise.resolve()
    for (const timer of [this.retry, this.replan]) if (timer) clearTimeout(timer)
    this.retry = this.replan = null
  }
}

const refused = (why: Fault, code: number): WriteOutcome => ({ ok: false, fault: why, quality: code })

const faultOf = (error: unknown): Fault => (isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message }))
